<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use App\Estate\Models\Cluster;
use App\Telemetry\Store\ReadingGaps;
use Fulcrion\Core\Forecast\DailySeries;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\Used;
use Illuminate\Support\Facades\DB;

/**
 * Use day by day as a series: days on which nothing ran are zeros, days on which a server was not read for hours are gaps.
 */
final readonly class UsageSeries
{
    /** Days further back say nothing of what comes. */
    private const MOST_DAYS = 730;

    /** A day that was not read for longer is not known. */
    private const MOST_UNREAD_SECONDS = 7_200;

    private const LEAST_PART = 0.05;

    public function __construct(private UsageReader $reader, private ReadingGaps $gaps, private Calendar $calendar)
    {
    }

    /**
     * Up to yesterday, by team; each series begins on the same day.
     *
     * @return array<string, DailySeries> by name of the team; of all that used something
     */
    public function byTeam(UsageScope $scope, int $now): array
    {
        return $this->by(UsageField::Team, $scope, $now);
    }

    /**
     * The same by any field that is not of statements, which are too many.
     *
     * @param  int  $most days at most
     * @return array<string, DailySeries> by value of the field
     */
    public function by(UsageField $field, UsageScope $scope, int $now, int $most = self::MOST_DAYS): array
    {
        $days = $this->days($scope->cluster, $now, $most);

        return $days === null ? [] : $this->read($this->reader->daily($scope, $days, $field), $scope, $days, $now);
    }

    /**
     * The same of some statements.
     *
     * @param  list<string>  $fingerprints
     * @return array<string, DailySeries> by fingerprint
     */
    public function ofStatements(array $fingerprints, UsageScope $scope, int $now, int $most = self::MOST_DAYS): array
    {
        $days = $fingerprints === [] ? null : $this->days($scope->cluster, $now, $most);

        return $days === null ? []
            : $this->read($this->reader->dailyOfStatements($fingerprints, $scope, $days), $scope, $days, $now);
    }

    /**
     * @param  array<int, array<string, int>>  $daily amount by value by day
     * @return array<string, DailySeries>
     */
    private function read(array $daily, UsageScope $scope, Days $days, int $now): array
    {
        $unread = $this->unread($scope, $days, $now);
        $teams = [];
        $count = $days->count();
        foreach ($daily as $day => $amounts) {
            foreach ($amounts as $team => $amount) {
                $teams[$team] ??= array_fill(0, $count, 0.0);
                $teams[$team][intdiv($day - $days->from, Days::DAY)] = (float) max(0, $amount);
            }
        }
        ksort($teams);
        $series = [];
        foreach ($teams as $team => $values) {
            foreach (array_keys($unread) as $place) {
                $values[$place] = null;
            }
            $series[(string) $team] = new DailySeries($days->from, array_values($values));
        }

        return $series;
    }

    /**
     * Of several together; null where there are none.
     *
     * @param  array<DailySeries>  $series that begin on the same day
     */
    public static function sum(array $series): ?DailySeries
    {
        $first = reset($series);
        if ($first === false) {
            return null;
        }
        $sums = [];
        foreach (array_keys($first->values) as $place) {
            $sum = 0.0;
            foreach ($series as $one) {
                $value = $one->values[$place] ?? null;
                $sum = $value === null || $sum === null ? null : $sum + $value;
            }
            $sums[] = $sum;
        }

        return new DailySeries($first->first, $sums);
    }

    private function days(?Cluster $cluster, int $now, int $most): ?Days
    {
        $today = $this->calendar->day($now);
        $query = DB::table('usage_days');
        $first = $cluster === null ? $query->min('day_at') : $query->where('cluster_id', $cluster->id)->min('day_at');

        return $first === null || (int) $first >= $today ? null : new Days(max((int) $first, $today - $most * Days::DAY), $today);
    }

    /**
     * Only of clusters that have a part in it that matters, and not before anything was known of them.
     *
     * @return array<int, true> places of days that were not read for long
     */
    private function unread(UsageScope $scope, Days $days, int $now): array
    {
        [, $to] = $this->calendar->span($days);
        $use = $this->reader->by(UsageField::Cluster, $scope, $days);
        $all = array_sum(array_map(static fn (Used $one): int => $one->amount, $use));
        $unread = [];
        foreach (Cluster::query()->whereIn('slug', array_keys($use))->get() as $one) {
            if ($use[$one->slug]->amount < self::LEAST_PART * $all) {
                continue;
            }
            $first = (int) DB::table('usage_days')->where('cluster_id', $one->id)->min('day_at');
            $seconds = [];
            foreach ($this->gaps->of($one, $this->calendar->begin(max($days->from, $first)), $to, $now) as [$begin, $end]) {
                for ($day = $this->calendar->day($begin); $this->calendar->begin($day) < $end; $day += Days::DAY) {
                    $part = min($end, $this->calendar->end($day)) - max($begin, $this->calendar->begin($day));
                    $seconds[$day] = ($seconds[$day] ?? 0) + $part;
                }
            }
            foreach ($seconds as $day => $sum) {
                if ($sum > self::MOST_UNREAD_SECONDS) {
                    $unread[intdiv($day - $days->from, Days::DAY)] = true;
                }
            }
        }

        return $unread;
    }
}
