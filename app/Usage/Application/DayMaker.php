<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Estate\Models\Cluster;
use App\Telemetry\Usage\StatementTables;
use App\Telemetry\Usage\UsageSums;
use Closure;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Support\Facades\DB;

/**
 * Makes and closes the days of a cluster, and what is added up from them.
 */
final readonly class DayMaker
{
    public function __construct(
        private DayFacts $facts,
        private StatementTables $tables,
        private UnreadFindings $unread,
        private JumpFindings $jumps,
        private Calendar $calendar,
    ) {
    }

    /**
     * @param  int|null  $from start of the first day; null for those that are not closed
     * @param  int  $to start of the last one
     * @param  bool  $again whether days that are closed are held against their load as well
     * @param  Closure(string, float): void  $tell told the day and the share that is done
     * @return array<string, int> number of days by outcome
     */
    public function make(Cluster $cluster, ?int $from, int $to, int $now, bool $again, Closure $tell): array
    {
        $closed = DB::table('usage_days')->where('cluster_id', $cluster->id)->whereNotNull('closed_at')->pluck('day_at')->flip();
        $days = $this->loaded($cluster, $from, $to);
        $count = array_fill_keys(array_map(static fn (DayOutcome $one): string => $one->value, DayOutcome::cases()), 0);
        foreach ($days as $i => $day) {
            // What a person names is looked at again; else only what is not closed.
            if ($from === null && ! $again && isset($closed[$day])) {
                continue;
            }
            $tell("{$cluster->name}, ".gmdate('Y-m-d', $day), $i / count($days));
            $count[$this->facts->make($cluster, $day, $now)->value]++;
        }
        $this->facts->prune($cluster, $now);
        UsageSums::spans($cluster, $this->calendar->shown($now));
        $this->tables->learn($cluster);
        $this->unread->report($cluster, $now);
        // Looked for once a day, when the day before is closed.
        if ($again || $count[DayOutcome::Closed->value] > 0) {
            $this->jumps->report($cluster, $now);
        }

        return $count;
    }

    /**
     * @return list<int> days there is load of, oldest first
     */
    private function loaded(Cluster $cluster, ?int $from, int $to): array
    {
        $days = [];
        foreach (
            DB::table('load_by_origin_hour')
                ->where('cluster_id', $cluster->id)
                ->where('bucket_at', '>=', $from === null ? 0 : $this->calendar->begin($from))
                ->where('bucket_at', '<', $this->calendar->end($to))
                ->distinct()
                ->orderBy('bucket_at')
                ->pluck('bucket_at') as $hour
        ) {
            $days[$this->calendar->day((int) $hour)] = true;
        }

        return array_keys($days);
    }

    /**
     * @param  array<string, int>  $count by outcome
     * @return string "one day closed, 2 days corrected"; empty where there was nothing
     */
    public static function said(array $count): string
    {
        $said = [];
        foreach (array_filter($count, static fn (int $days): bool => $days > 0) as $outcome => $number) {
            $said[] = ($number === 1 ? 'one day' : "{$number} days")." {$outcome}";
        }

        return implode(', ', $said);
    }
}
