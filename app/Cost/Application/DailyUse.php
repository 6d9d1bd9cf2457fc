<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Telemetry\Usage\ShownTime;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/**
 * Use of a cluster by the days of any calendar, such as a bill's: those of the estate as they are kept, others from their hours.
 */
final class DailyUse
{
    /**
     * @return array<int, int> amount by date, oldest first; of days something ran on
     */
    public static function of(Cluster $cluster, UsageMeasure $measure, Days $days, Calendar $by): array
    {
        return self::query($cluster, $days, $by)
            ->groupBy('day')
            ->orderBy('day')
            ->selectRaw("SUM({$measure->value}) AS amount")
            ->pluck('amount', 'day')
            ->map(static fn (mixed $amount): int => (int) $amount)
            ->all();
    }

    private static function query(Cluster $cluster, Days $days, Calendar $by): Builder
    {
        if ($by->zone->getName() === app(Calendar::class)->zone->getName()) {
            return DB::table('usage_origin_days')
                ->where('cluster_id', $cluster->id)
                ->where('day_at', '>=', $days->from)
                ->where('day_at', '<', $days->to)
                ->selectRaw('day_at AS day');
        }
        [$from, $to] = $by->span($days);

        return DB::table('usage_hours')
            ->where('cluster_id', $cluster->id)
            ->where('hour_at', '>=', $from)
            ->where('hour_at', '<', $to)
            ->selectRaw(ShownTime::day($by, 'hour_at', $from, $to).' AS day');
    }
}
