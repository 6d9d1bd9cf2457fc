<?php

declare(strict_types=1);

namespace App\Limits\Application;

use Fulcrion\Core\Limits\HourUse;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Illuminate\Support\Facades\DB;

/**
 * What the figure of a limit shows: use added up in each period, what was done, and what was held.
 */
final readonly class LimitStair
{
    private const HOUR = 3_600;

    /**
     * @param  list<list<array{int, float}>>  $stairs moment and use, by period; of single statements one moment each
     * @param  list<list<array{int, float}>>  $wanted the same as it would have gone on
     * @param  list<array{int, float, string}>  $acts moment, use, what was done
     * @param  array<int, float>  $held statements by hour
     */
    private function __construct(
        public KeptLimit $limit,
        public int $from,
        public int $to,
        public array $stairs,
        public array $wanted,
        public array $acts,
        public array $held,
        public bool $isTrial,
    ) {
    }

    public static function past(LimitPast $past, Calendar $calendar, int $now): self
    {
        $limit = $past->limit;
        $holdsAt = $limit->limit->holdsAt();
        $wanted = self::added($limit, $past->hours);
        $isSingle = $limit->limit->period === LimitPeriod::Statement;

        return new self(
            $limit,
            $calendar->begin($past->days->from),
            min($now, $calendar->begin($past->days->to)),
            $isSingle || $holdsAt === null ? $wanted : array_map(static fn (array $stair): array => array_map(
                static fn (array $point): array => [$point[0], min((float) $holdsAt, $point[1])],
                $stair,
            ), $wanted),
            $isSingle || $holdsAt === null ? [] : $wanted,
            array_map(static fn ($act): array => [$act->at, (float) $act->used, self::said($act->threshold->percent,
                $act->threshold->act->done())], $past->trial->acts),
            $past->trial->heldAt,
            true,
        );
    }

    /**
     * In one period, as it was.
     *
     * @param  list<HourUse>  $hours of it
     */
    public static function now(KeptLimit $limit, array $hours, Days $days, int $used, Calendar $calendar, int $now): self
    {
        [$from, $to] = $calendar->span($days);
        $stairs = self::added($limit, $hours);
        if ($limit->limit->period !== LimitPeriod::Statement && $now < $to) {
            // What was counted a moment ago is not among the facts yet, and an hour that is not over ends now.
            $before = array_filter($stairs[0] ?? [[$from, 0.0]], static fn (array $point): bool => $point[0] < $now);
            $stairs[0] = [...array_values($before), [$now, (float) $used]];
        }
        $acts = [];
        $known = DB::table('limit_acts')->where('limit_id', $limit->id)->whereBetween('from_at', [$days->from, $days->to - 1]);
        foreach ($known->orderBy('at_us')->get() as $act) {
            $acts[] = [intdiv((int) $act->at_us, 1_000_000), (float) $act->used, self::said((int) $act->percent, (string) $act->act)];
        }
        $held = [];
        foreach (DB::table('limit_refusals')->where('limit_id', $limit->id)->whereBetween('at_us', [$from * 1_000_000, $to * 1_000_000])
            ->selectRaw('at_us DIV 3600000000 * 3600 AS hour, COUNT(*) AS held')->groupBy('hour')->orderBy('hour')->get() as $row) {
            $held[(int) $row->hour] = (float) $row->held;
        }

        return new self($limit, $from, $to, $stairs, [], $acts, $held, false);
    }

    private static function said(int $percent, string $done): string
    {
        return "{$percent}% reached, {$done}";
    }

    /**
     * @param  list<HourUse>  $hours
     * @return list<list<array{int, float}>>
     */
    private static function added(KeptLimit $limit, array $hours): array
    {
        $isSingle = $limit->limit->period === LimitPeriod::Statement;
        $by = [];
        foreach ($hours as $hour) {
            $period = $isSingle ? 0 : $limit->limit->period->days($hour->day)->from;
            $mean = $hour->executions === 0 ? 0.0 : (float) ($hour->amount / $hour->executions);
            $had = $by[$period][$hour->at] ?? 0.0;
            $by[$period][$hour->at] = $isSingle ? max($had, $mean) : $had + $hour->amount;
        }
        ksort($by);
        $stairs = [];
        foreach ($by as $amounts) {
            ksort($amounts);
            $sum = 0.0;
            $stair = [];
            foreach ($amounts as $at => $amount) {
                if ($stair === [] && ! $isSingle) {
                    $stair[] = [$at, 0.0];
                }
                $sum = $isSingle ? $amount : $sum + $amount;
                $stair[] = [$isSingle ? $at : $at + self::HOUR, $sum];
            }
            $stairs[] = $stair;
        }

        return $stairs;
    }
}
