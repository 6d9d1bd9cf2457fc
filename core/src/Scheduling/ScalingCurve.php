<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * Time against number of workers. Reckoned through wherever it bends; in between it is read off, straight over 1 / N, by
 * which time falls where there is enough to do.
 */
final class ScalingCurve
{
    private const TOLERANCE = 0.004;

    /** @var array<int, int> time by workers, rising */
    private array $times = [];

    private float $worstMiss = 0.0;

    private function __construct(private readonly JobModel $model, private readonly int $workUs, public readonly int $ceiling)
    {
    }

    /**
     * @param  int  $most how many numbers of workers may be reckoned through
     */
    public static function of(JobModel $model, int $most = 36): self
    {
        $widest = $model->widest();
        $shortest = $model->timeUs($widest);
        // The least number with which it is as short as it gets.
        [$low, $high] = [0, $widest];
        while ($high - $low > 1) {
            $middle = intdiv($low + $high, 2);
            if ($model->timeUs($middle) <= $shortest) {
                $high = $middle;
            } else {
                $low = $middle;
            }
        }
        $curve = new self($model, array_sum($model->loadedUs()), $high);
        $curve->fill($most);

        return $curve;
    }

    private function fill(int $most): void
    {
        if ($this->ceiling <= $most) {
            foreach (range(1, $this->ceiling) as $workers) {
                $this->times[$workers] = $this->model->timeUs($workers);
            }

            return;
        }
        $recorded = min($this->model->run->workers(), $this->ceiling);
        foreach ([1, $this->ceiling, $recorded] as $workers) {
            $this->times[$workers] = $this->model->timeUs($workers);
        }
        for ($workers = 2.0; $workers < $this->ceiling; $workers *= 2) {
            $this->times[(int) $workers] = $this->model->timeUs((int) $workers);
        }
        ksort($this->times);
        // The gap whose middle was missed most is parted first.
        $gaps = [];
        $known = array_keys($this->times);
        for ($i = 1; $i < count($known); $i++) {
            $gaps[] = [1.0, $known[$i - 1], $known[$i]];
        }
        $settled = 0.0;
        while ($gaps !== [] && count($this->times) < $most) {
            $worst = array_search(max($gaps), $gaps, true);
            [$miss, $from, $to] = $gaps[(int) $worst];
            unset($gaps[(int) $worst]);
            if ($to - $from < 2 || $miss < self::TOLERANCE) {
                $settled = max($settled, $to - $from < 2 ? 0.0 : $miss);

                continue;
            }
            $middle = max($from + 1, min($to - 1, (int) round(sqrt($from * $to))));
            $guess = self::between($middle, $from, $this->times[$from], $to, $this->times[$to]);
            $time = $this->model->timeUs($middle);
            $off = abs($guess / max(1, $time) - 1);
            $this->times[$middle] = $time;
            $gaps[] = [$off, $from, $middle];
            $gaps[] = [$off, $middle, $to];
        }
        $this->worstMiss = max([$settled, ...array_column($gaps, 0)]);
        ksort($this->times);
    }

    /** How far a time read off was from what came out, at most, in the middle of the gaps that are left, as a share. */
    public function worstMiss(): float
    {
        return min(1.0, $this->worstMiss);
    }

    /**
     * @return list<CurvePoint> those reckoned through
     */
    public function points(): array
    {
        return array_map($this->point(...), array_keys($this->times));
    }

    /** Time that is read off where it was not reckoned through. */
    public function timeUs(int $workers): int
    {
        if ($workers >= $this->ceiling) {
            return $this->times[$this->ceiling];
        }
        if (isset($this->times[$workers])) {
            return $this->times[$workers];
        }
        $from = 1;
        foreach ($this->times as $to => $time) {
            if ($to > $workers) {
                return (int) round(self::between($workers, $from, $this->times[$from], $to, $time));
            }
            $from = $to;
        }

        return $this->times[$from];
    }

    public function point(int $workers): CurvePoint
    {
        $time = $this->timeUs($workers);

        return new CurvePoint($workers, $time, $time === 0 ? 0.0 : max(0.0, 1 - $this->workUs / ($workers * $time)));
    }

    /** The same, reckoned through and kept. */
    public function exact(int $workers): CurvePoint
    {
        if ($workers < $this->ceiling && ! isset($this->times[$workers])) {
            $this->times[$workers] = $this->model->timeUs($workers);
            ksort($this->times);
        }

        return $this->point($workers);
    }

    /**
     * No other is both faster and no dearer: by rising number of workers, so falling time and rising cost.
     *
     * @return list<CurvePoint>
     */
    public function front(): array
    {
        $points = $this->points();
        usort($points, static fn (CurvePoint $a, CurvePoint $b): int =>
            [$a->timeUs, $a->workerHours()] <=> [$b->timeUs, $b->workerHours()]);
        $front = [];
        $least = INF;
        foreach ($points as $point) {
            if ($point->workerHours() < $least - 1e-12) {
                $least = $point->workerHours();
                $front[] = $point;
            }
        }

        return array_reverse($front);
    }

    private static function between(int $workers, int $from, int $fromUs, int $to, int $toUs): float
    {
        $share = (1 / $from - 1 / $workers) / (1 / $from - 1 / $to);

        return $fromUs + $share * ($toUs - $fromUs);
    }
}
