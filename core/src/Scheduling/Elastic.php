<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * Looks for the cheapest number of workers over time that ends within a given time. No quick way to the very best is
 * known; it starts from fixed numbers, each cut down to what was at work in each stretch, and then takes workers away
 * stretch by stretch as long as that is in time and cheaper.
 */
final readonly class Elastic
{
    private const BASES = 10;

    public function __construct(
        private JobModel $model,
        private ScalingCurve $curve,
        /** Workers come and go in groups of so many. */
        private int $step,
        /** How long before it is at work a worker is paid. */
        private int $delayUs,
        /** Least time between two changes. */
        private int $holdUs,
        /** How many numbers over time are tried at most. */
        private int $tries = 160,
    ) {
    }

    /** Null where no number of workers ends in time. */
    public function plan(int $withinUs): ?ElasticPlan
    {
        $fixed = (new WorkerRecommendations($this->curve))->deadline($withinUs);
        if ($fixed === null) {
            return null;
        }
        $tried = 0;
        $best = $this->judge([[0, $fixed->workers]], $withinUs, $tried);
        $low = max($this->step, (int) (0.5 * $fixed->workers));
        $high = max($low, $this->curve->ceiling);
        for ($i = 0; $i < self::BASES; $i++) {
            $base = $this->round((int) round($low * ($high / $low) ** ($i / (self::BASES - 1))));
            $levels = $this->cut($this->model->schedule($base), $base);
            $plan = $this->judge($levels, $withinUs, $tried);
            if ($plan !== null && ($best === null || $plan->paidUs < $best->paidUs)) {
                $best = $plan;
            }
        }
        for ($size = 8; $best !== null && $size >= 1; $size = intdiv($size, 2)) {
            for ($better = true; $better && $tried < $this->tries;) {
                $better = false;
                for ($i = 0; $i < count($best->levels) && $tried < $this->tries; $i++) {
                    $levels = $best->levels;
                    [$at, $level] = $levels[$i];
                    $less = max($i === count($levels) - 1 ? 1 : 0, $level - $size * $this->step);
                    if ($less < $level) {
                        $levels[$i] = [$at, $less];
                        $plan = $this->judge($levels, $withinUs, $tried);
                        if ($plan !== null && $plan->paidUs < $best->paidUs) {
                            [$best, $better] = [$plan, true];
                        }
                    }
                }
            }
        }

        return $best === null ? null : new ElasticPlan(self::merged($best->levels), $best->timeUs, $best->paidUs, $tried);
    }

    /**
     * In each stretch as many as were at work at its busiest.
     *
     * @return non-empty-list<array{int, int}>
     */
    private function cut(Schedule $schedule, int $base): array
    {
        $used = $schedule->used();
        $stretches = max(1, (int) ceil($schedule->makespanUs / $this->holdUs));
        $most = array_fill(0, $stretches, 0);
        foreach ($used->levels as $i => $level) {
            $last = $used->timesUs[$i + 1] ?? $used->timesUs[$i];
            for ($at = intdiv($used->timesUs[$i], $this->holdUs); $at < $stretches && $at * $this->holdUs < $last; $at++) {
                $most[$at] = max($most[$at], $level);
            }
        }

        return array_map(
            fn (int $level, int $at): array => [$at * $this->holdUs, min($this->round(max($level, 1)), max($base, 1))],
            $most,
            array_keys($most),
        );
    }

    /**
     * @param  non-empty-list<array{int, int}>  $levels
     */
    private function judge(array $levels, int $withinUs, int &$tried): ?ElasticPlan
    {
        $tried++;
        $schedule = $this->model->scheduler()->elastic(self::merged($levels), true);
        if ($schedule->makespanUs > $withinUs) {
            return null;
        }
        $paid = 0;
        $used = $schedule->used();
        $events = array_unique([...array_column($levels, 0), ...$used->timesUs, $schedule->makespanUs]);
        sort($events);
        [$level, $busy, $li, $ui] = [0, 0, 0, 0];
        foreach ($events as $i => $at) {
            while ($li < count($levels) && $levels[$li][0] <= $at) {
                if ($levels[$li][1] > $level && $at > 0) {
                    $paid += ($levels[$li][1] - $level) * $this->delayUs;
                }
                $level = $levels[$li++][1];
            }
            while ($ui < count($used->timesUs) && $used->timesUs[$ui] <= $at) {
                $busy = $used->levels[$ui++];
            }
            $until = min($events[$i + 1] ?? $at, $schedule->makespanUs);
            $paid += max($level, $busy) * max(0, $until - $at);
        }

        return new ElasticPlan($levels, $schedule->makespanUs, $paid, $tried);
    }

    private function round(int $workers): int
    {
        return max($this->step, (int) ceil($workers / $this->step) * $this->step);
    }

    /**
     * @param  non-empty-list<array{int, int}>  $levels
     * @return non-empty-list<array{int, int}>
     */
    private static function merged(array $levels): array
    {
        $merged = [$levels[0]];
        foreach (array_slice($levels, 1) as $level) {
            if ($level[1] !== $merged[count($merged) - 1][1]) {
                $merged[] = $level;
            }
        }

        return $merged;
    }
}
