<?php

declare(strict_types=1);

namespace App\Limits\Application;

use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * One limit in one of its periods.
 */
final readonly class LimitPage
{
    private const REFUSALS = 200;

    private const PERIODS = 12;

    /**
     * @param  list<stdClass>  $refusals newest first
     * @param  array<string, int>  $senders statements held, by login
     * @param  list<stdClass>  $lifts newest first
     * @param  list<int>  $periods first days of those that were counted, newest first
     * @param  array{int, int}  $running expected of statements that run now, and how many they are
     */
    private function __construct(
        public KeptLimit $limit,
        public LimitRow $row,
        public Days $days,
        public int $used,
        public array $running,
        public array $refusals,
        public array $senders,
        public array $lifts,
        public array $periods,
        public LimitStair $stair,
        public bool $isPresent,
    ) {
    }

    public static function of(
        KeptLimit $limit,
        string $from,
        LimitCounters $counters,
        LimitFacts $facts,
        Calendar $calendar,
        int $now,
    ): self {
        $present = $counters->period($limit, $now);
        $periods = array_values(array_map(intval(...), DB::table('limit_counters')->where('limit_id', $limit->id)->orderByDesc('from_at')
            ->limit(self::PERIODS)->pluck('from_at')->all()));
        $asked = preg_match('~^\d{4}-\d\d-\d\d$~D', $from) === 1 ? (int) strtotime("{$from} UTC") : $present;
        $period = in_array($asked, $periods, true) ? $asked : $present;
        $days = $limit->limit->period->days($period);
        $used = $counters->used($limit, $period);
        $query = DB::table('limit_refusals')->where('limit_id', $limit->id)->where('from_at', '>=', $days->from)
            ->where('from_at', '<', $days->to);

        return new self(
            $limit,
            LimitRow::of($limit, $counters, $calendar, $now),
            $days,
            $used,
            $counters->running($limit, $period),
            array_values((clone $query)->join('clusters', 'clusters.id', '=', 'limit_refusals.cluster_id')->orderByDesc('limit_refusals.id')
                ->limit(self::REFUSALS)->get(['limit_refusals.*', 'clusters.name as cluster', 'clusters.slug'])->all()),
            array_map(intval(...), (clone $query)->selectRaw('login, COUNT(*) AS held')->groupBy('login')->orderByDesc('held')
                ->pluck('held', 'login')->all()),
            array_values(DB::table('limit_lifts')->where('limit_id', $limit->id)->orderByDesc('id')->limit(self::PERIODS)->get()->all()),
            $periods,
            LimitStair::now($limit, $facts->hours($limit->limit, $days, $limit->currency), $days, $used, $calendar, $now),
            $period === $present,
        );
    }

    public function sentence(): string
    {
        $held = array_sum($this->senders);
        $said = $held === 0 ? 'nothing was held' : ($held === 1 ? '1 statement was held' : "{$held} statements were held");
        $whose = ucfirst($this->limit->whose());
        if ($this->limit->limit->period === LimitPeriod::Statement) {
            return "{$whose}: {$this->limit->whole()} by a single statement at most; {$said} today";
        }
        $share = Quantity::percent($this->used / $this->limit->limit->amount);

        return "{$whose} used {$share} of {$this->limit->whole()}, {$this->days->describe()}; {$said}";
    }

    /** Why a statement was refused or ended, in words. */
    public static function how(string $how): string
    {
        return match ($how) {
            'estimate' => 'not run: too much by its plan',
            'stopped' => 'stopped on the way',
            default => 'held',
        };
    }
}
