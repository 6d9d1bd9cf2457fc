<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

/**
 * What a limit would have done in the past, modelled from hours: within an hour use is taken to be even, and what would have been held
 * would not have been used.
 */
final readonly class LimitTrial
{
    private const HOUR = 3_600;

    /**
     * @param  list<TrialAct>  $acts in time
     * @param  array<string, float>  $held executions by whom, most first
     * @param  array<int, float>  $heldAt executions by hour
     * @param  array<int, int>  $passed use by the first day of each period, held use not counted
     * @param  array<int, int>  $wanted the same with what would have been held
     */
    private function __construct(
        public array $acts,
        public array $held,
        public array $heldAt,
        public array $passed,
        public array $wanted,
    ) {
    }

    /**
     * @param  list<HourUse>  $hours in any order
     */
    public static function of(Limit $limit, array $hours): self
    {
        return $limit->period === LimitPeriod::Statement ? self::ofStatements($limit, $hours) : self::ofPeriods($limit, $hours);
    }

    public function executions(): float
    {
        return array_sum($this->held);
    }

    /** Periods in which something would have been held. */
    public function periodsHeld(): int
    {
        $days = [];
        foreach ($this->acts as $act) {
            if ($act->threshold->act === Act::Hold) {
                $days[$act->day] = true;
            }
        }

        return count($days);
    }

    /**
     * @param  list<HourUse>  $hours
     */
    private static function ofPeriods(Limit $limit, array $hours): self
    {
        usort($hours, static fn (HourUse $a, HourUse $b): int => $a->at <=> $b->at);
        $byHour = [];
        foreach ($hours as $hour) {
            // An hour on the border of two days belongs to the day the facts say.
            $byHour[$limit->period->days($hour->day)->from][$hour->at][] = $hour;
        }
        ksort($byHour);
        $acts = $held = $heldAt = $passed = $wanted = [];
        $holdsAt = $limit->holdsAt();
        foreach ($byHour as $day => $some) {
            $used = $all = 0;
            ksort($some);
            foreach ($some as $at => $uses) {
                $amount = array_sum(array_map(static fn (HourUse $one): int => $one->amount, $uses));
                $room = $holdsAt === null ? $amount : max(0, min($amount, $holdsAt - $used));
                // Where nothing of the measure is used, an hour within the limit is let pass whole.
                $share = $amount > 0 ? $room / $amount : ($holdsAt !== null && $used >= $holdsAt ? 0.0 : 1.0);
                array_push($acts, ...self::crossed($limit, $day, $at, $used, $room, $amount));
                foreach ($share < 1.0 ? $uses : [] as $one) {
                    $held[$one->who] = ($held[$one->who] ?? 0.0) + $one->executions * (1 - $share);
                    $heldAt[$at] = ($heldAt[$at] ?? 0.0) + $one->executions * (1 - $share);
                }
                $used += $room;
                $all += $amount;
            }
            $passed[$day] = $used;
            $wanted[$day] = $all;
        }
        arsort($held);

        $isSome = static fn (float $one): bool => $one > 0.0;

        return new self($acts, array_filter($held, $isSome), array_filter($heldAt, $isSome), $passed, $wanted);
    }

    /**
     * @return list<TrialAct>
     */
    private static function crossed(Limit $limit, int $day, int $at, int $used, int $room, int $amount): array
    {
        $acts = [];
        foreach ($limit->thresholds as $threshold) {
            $place = $threshold->of($limit->amount);
            if ($used < $place && $used + $room >= $place) {
                $acts[] = new TrialAct($day, $threshold, $at + (int) (self::HOUR * ($place - $used) / max(1, $amount)), $place);
            }
        }

        return $acts;
    }

    /**
     * By the mean of each statement in each hour: what varies within an hour may have passed the limit more often.
     *
     * @param  list<HourUse>  $hours
     */
    private static function ofStatements(Limit $limit, array $hours): self
    {
        usort($hours, static fn (HourUse $a, HourUse $b): int => $a->at <=> $b->at);
        $acts = $held = $heldAt = $passed = $wanted = $seen = [];
        foreach ($hours as $hour) {
            $mean = $hour->executions === 0 ? 0 : intdiv($hour->amount, $hour->executions);
            $isHeld = false;
            foreach ($limit->reached($mean) as $threshold) {
                $isHeld = $isHeld || $threshold->act === Act::Hold;
                if (! isset($seen["{$hour->day} {$threshold->percent}"])) {
                    $acts[] = new TrialAct($hour->day, $threshold, $hour->at, $mean);
                    $seen["{$hour->day} {$threshold->percent}"] = true;
                }
            }
            $wanted[$hour->day] = ($wanted[$hour->day] ?? 0) + $hour->amount;
            $passed[$hour->day] = ($passed[$hour->day] ?? 0) + ($isHeld ? 0 : $hour->amount);
            if ($isHeld) {
                $held[$hour->who] = ($held[$hour->who] ?? 0.0) + $hour->executions;
                $heldAt[$hour->at] = ($heldAt[$hour->at] ?? 0.0) + $hour->executions;
            }
        }
        arsort($held);

        return new self($acts, $held, $heldAt, $passed, $wanted);
    }
}
