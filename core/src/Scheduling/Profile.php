<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * A number that changes in steps over time: workers at work, tasks that could run.
 */
final readonly class Profile
{
    /**
     * @param  list<int>  $timesUs rising
     * @param  list<int>  $levels from each time on; the last is 0
     */
    public function __construct(public array $timesUs, public array $levels)
    {
    }

    /**
     * @param  list<int>  $starts
     * @param  list<int>  $durationsUs
     */
    public static function of(array $starts, array $durationsUs): self
    {
        $steps = [];
        foreach ($starts as $task => $start) {
            $duration = $durationsUs[$task];
            if ($duration > 0) {
                $steps[$start] = ($steps[$start] ?? 0) + 1;
                $steps[$start + $duration] = ($steps[$start + $duration] ?? 0) - 1;
            }
        }
        ksort($steps);
        [$times, $levels, $level] = [[], [], 0];
        foreach ($steps as $time => $step) {
            if ($step !== 0) {
                $level += $step;
                $times[] = $time;
                $levels[] = $level;
            }
        }

        return new self($times, $levels);
    }

    public function most(): int
    {
        return max([0, ...$this->levels]);
    }

    /** Its area: worker microseconds. */
    public function area(): int
    {
        $area = 0;
        for ($i = 1, $count = count($this->timesUs); $i < $count; $i++) {
            $area += $this->levels[$i - 1] * ($this->timesUs[$i] - $this->timesUs[$i - 1]);
        }

        return $area;
    }

    /**
     * Means over equal parts of a time, for drawing.
     *
     * @return list<float>
     */
    public function parts(int $fromUs, int $toUs, int $parts): array
    {
        $sums = array_fill(0, $parts, 0.0);
        $width = max(1.0, ($toUs - $fromUs) / $parts);
        for ($i = 0, $count = count($this->timesUs) - 1; $i < $count; $i++) {
            $level = $this->levels[$i];
            if ($level === 0) {
                continue;
            }
            $from = max(0.0, ($this->timesUs[$i] - $fromUs) / $width);
            $to = min((float) $parts, ($this->timesUs[$i + 1] - $fromUs) / $width);
            for ($part = (int) $from; $part < $to && $part < $parts; $part++) {
                $sums[$part] += $level * (min($to, $part + 1) - max($from, $part));
            }
        }

        return array_values($sums);
    }
}
