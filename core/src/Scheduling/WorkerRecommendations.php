<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * Which number of workers fits what somebody wants of the job.
 */
final readonly class WorkerRecommendations
{
    public function __construct(private ScalingCurve $curve)
    {
    }

    public function with(int $workers): CurvePoint
    {
        return $this->curve->exact($workers);
    }

    public function cheapest(): CurvePoint
    {
        $front = $this->curve->front();

        return $front[0];
    }

    /** The least number with the shortest time. */
    public function ceiling(): CurvePoint
    {
        return $this->curve->point($this->curve->ceiling);
    }

    /**
     * Where the front bends: largest distance from the chord of the front with both axes made 0 to 1 (Satopaa, Albrecht,
     * Irwin, Raghavan 2011). What is found is reckoned through with its neighbours until it stays.
     */
    public function knee(): CurvePoint
    {
        for ($round = 0; ; $round++) {
            $front = $this->curve->front();
            $at = self::bend($front);
            if ($round >= 4) {
                return $front[$at];
            }
            $known = count($this->curve->points());
            foreach ([$at - 1, $at] as $gap) {
                if ($gap >= 0 && isset($front[$gap + 1]) && abs($front[$gap + 1]->workers - $front[$gap]->workers) > 1) {
                    $this->curve->exact(intdiv($front[$gap]->workers + $front[$gap + 1]->workers, 2));
                }
            }
            if (count($this->curve->points()) === $known) {
                return $front[$at];
            }
        }
    }

    /**
     * @param  list<CurvePoint>  $front
     */
    public static function bend(array $front): int
    {
        $last = count($front) - 1;
        [$low, $high] = [$front[0]->workerHours(), $front[$last]->workerHours()];
        [$slow, $fast] = [$front[0]->timeUs, $front[$last]->timeUs];
        $best = $last;
        $far = -INF;
        foreach ($front as $i => $point) {
            $x = $high > $low ? ($point->workerHours() - $low) / ($high - $low) : 0.0;
            $y = $slow > $fast ? ($point->timeUs - $fast) / ($slow - $fast) : 0.0;
            // Below the chord from (0, 1) to (1, 0).
            if (1 - $x - $y > $far + 1e-12) {
                $far = 1 - $x - $y;
                $best = $i;
            }
        }

        return $best;
    }

    /** The cheapest that ends within a time; null where none does. */
    public function deadline(int $withinUs): ?CurvePoint
    {
        if ($this->ceiling()->timeUs > $withinUs) {
            return null;
        }
        // With more workers it hardly ever takes longer: the least number that is in time, then what is cheaper beside it.
        [$low, $high] = [0, $this->curve->ceiling];
        while ($high - $low > 1) {
            $middle = intdiv($low + $high, 2);
            if ($this->curve->exact($middle)->timeUs <= $withinUs) {
                $high = $middle;
            } else {
                $low = $middle;
            }
        }
        $best = $this->curve->exact($high);
        foreach ($this->curve->points() as $point) {
            if ($point->timeUs <= $withinUs && $point->workerHours() < $best->workerHours()) {
                $best = $point;
            }
        }

        return $best;
    }

    /** The fastest that costs no more; null where even the cheapest does. */
    public function budget(float $workerHours): ?CurvePoint
    {
        for ($round = 0; ; $round++) {
            $front = $this->curve->front();
            $at = null;
            foreach ($front as $i => $point) {
                $at = $point->workerHours() <= $workerHours ? $i : $at;
            }
            if ($at === null) {
                return null;
            }
            $next = $front[$at + 1] ?? null;
            if ($round > 12 || $next === null || abs($next->workers - $front[$at]->workers) < 2) {
                return $front[$at];
            }
            $this->curve->exact(intdiv($front[$at]->workers + $next->workers, 2));
        }
    }

    /**
     * What one more minute saved costs from a number of workers on, to the next that is faster on the front; null where
     * nothing gets faster.
     *
     * @return array{workerHours: float, to: int}|null
     */
    public function nextMinute(int $workers): ?array
    {
        $here = $this->curve->point($workers);
        foreach ($this->curve->front() as $point) {
            if ($point->workers > $workers && $point->timeUs < $here->timeUs) {
                return [
                    'workerHours' => ($point->workerHours() - $here->workerHours()) / (($here->timeUs - $point->timeUs) / 6e7),
                    'to' => $point->workers,
                ];
            }
        }

        return null;
    }
}
