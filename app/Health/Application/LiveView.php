<?php

declare(strict_types=1);

namespace App\Health\Application;

use Fulcrion\Core\Metrics\BusyProcess;

/**
 * What a host did in a few seconds, or in the last interval that is kept.
 */
final readonly class LiveView
{
    /**
     * @param  array<string, float|null>  $values by short name: counters as growth a second, all else as it is
     * @param  list<BusyProcess>  $processes the busiest first
     * @param  list<float>  $before part of the processors at work in the readings before, oldest first
     * @param  float  $seconds it is of
     */
    public function __construct(
        public int $at,
        public float $seconds,
        public array $values,
        public array $processes,
        public array $before,
    ) {
    }

    /**
     * Parts of the processors' time, which come to one.
     *
     * @return array<string, float>
     */
    public function processor(): array
    {
        $of = fn (string ...$modes): float => array_sum(array_map(fn (string $mode): float => $this->values["cpu.{$mode}"] ?? 0.0, $modes));
        $parts = [
            'programs' => $of('user', 'nice'),
            'system' => $of('system', 'interrupt', 'softirq'),
            'waiting for disks' => $of('iowait'),
            'taken by other machines' => $of('steal'),
            'idle' => $of('idle'),
        ];
        $all = array_sum($parts);

        return $all <= 0.0 ? [] : array_map(static fn (float $part): float => $part / $all, $parts);
    }

    public function busy(): ?float
    {
        $parts = $this->processor();

        return $parts === [] ? null : $parts['programs'] + $parts['system'];
    }
}
