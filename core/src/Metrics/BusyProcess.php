<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics;

/**
 * A process that had the processors for some of a span.
 */
final readonly class BusyProcess
{
    private const LONGEST_NAME = 64;

    /**
     * @param  float  $processors it had on the mean: 1.5 is one and a half
     */
    public function __construct(public int $pid, public string $name, public float $processors, public int $residentBytes)
    {
    }

    /**
     * Those that had most since a reading before.
     *
     * @param  array<int, HostProcess>  $processes by number
     * @param  array<mixed>  $before processor seconds by number; one that is not there is new, and has all of its time since
     * @return list<self> the busiest first
     */
    public static function most(array $processes, array $before, float $seconds, int $most): array
    {
        $busy = [];
        foreach ($processes as $pid => $one) {
            $then = $before[$pid] ?? null;
            $had = ($one->cpuSeconds - (is_numeric($then) ? (float) $then : 0.0)) / max(0.001, $seconds);
            if ($had > 0.0) {
                $busy[] = new self($pid, $one->name, $had, $one->residentBytes);
            }
        }
        usort($busy, static fn (self $a, self $b): int => [$b->processors, $a->pid] <=> [$a->processors, $b->pid]);

        return array_slice($busy, 0, $most);
    }

    /** As it was written as JSON; null where it is none. */
    public static function read(mixed $one): ?self
    {
        return is_array($one) && is_int($one['pid'] ?? null) && is_string($one['name'] ?? null)
            && is_numeric($one['processors'] ?? null) && is_int($one['residentBytes'] ?? null)
            ? new self($one['pid'], mb_strcut($one['name'], 0, self::LONGEST_NAME), (float) $one['processors'], $one['residentBytes'])
            : null;
    }
}
