<?php

declare(strict_types=1);

namespace App\Health\Metrics;

use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Metrics\Readings;

/**
 * What a host was doing, by short names: series of several devices are added up, moment by moment.
 */
final readonly class HostReadings
{
    private const HOUR = 3_600;

    /** Short name => metric, and labels that have to be there. */
    private const NAMES = [
        'cpu.user' => ['system.cpu.time', ['cpu.mode' => 'user']],
        'cpu.nice' => ['system.cpu.time', ['cpu.mode' => 'nice']],
        'cpu.system' => ['system.cpu.time', ['cpu.mode' => 'system']],
        'cpu.interrupt' => ['system.cpu.time', ['cpu.mode' => 'interrupt']],
        'cpu.softirq' => ['system.cpu.time', ['cpu.mode' => 'softirq']],
        'cpu.idle' => ['system.cpu.time', ['cpu.mode' => 'idle']],
        'cpu.iowait' => ['system.cpu.time', ['cpu.mode' => 'iowait']],
        'cpu.steal' => ['system.cpu.time', ['cpu.mode' => 'steal']],
        'cpu.count' => ['system.cpu.logical.count', []],
        'load' => ['system.cpu.load_average.1m', []],
        'memory.used' => ['system.memory.usage', []],
        'memory.limit' => ['system.memory.limit', []],
        'swap.in' => ['system.paging.operations', ['system.paging.direction' => 'in']],
        'swap.out' => ['system.paging.operations', ['system.paging.direction' => 'out']],
        'disk.read' => ['system.disk.io', ['disk.io.direction' => 'read']],
        'disk.write' => ['system.disk.io', ['disk.io.direction' => 'write']],
        'disk.busy' => ['system.disk.io_time', []],
        'network.in' => ['system.network.io', ['network.io.direction' => 'receive']],
        'network.out' => ['system.network.io', ['network.io.direction' => 'transmit']],
        'disk.used' => ['system.filesystem.usage', []],
        'disk.limit' => ['system.filesystem.limit', []],
    ];

    public function __construct(private SeriesBook $series, private PointStore $points)
    {
    }

    /**
     * @param  int  $patience readings further apart than this many seconds have a gap between them
     * @param  int  $step seconds that are looked at together; hours and longer are read from what hours were like
     * @return array<string, Readings> by short name, with what lies just outside of the span
     */
    public function of(int $clusterId, string $host, int $from, int $to, int $patience, int $step = 1): array
    {
        $series = $this->series->of($clusterId, $host);
        $isLong = $step >= self::HOUR;
        $patience = $isLong ? self::HOUR + $patience : $patience;
        $points = $isLong ? $this->byHour($series, $from - self::HOUR, $to)
            : $this->points->points($series, $from - $patience, $to + $patience);
        $readings = [];
        foreach (self::NAMES as $short => [$name, $labels]) {
            $sums = null;
            foreach ($series as $one) {
                if ($one->name === $name && array_intersect_assoc($labels, $one->labels) === $labels && isset($points[$one->id])) {
                    $sums = $sums === null ? $points[$one->id] : self::added($sums, $points[$one->id]);
                }
            }
            $readings[$short] = PointStore::readings($sums, $patience);
        }

        return $readings;
    }

    /**
     * Of each hour the last value of what only grows, at its end, and the highest of what goes up and down.
     *
     * @param  list<KeptSeries>  $series
     * @return array<int, Points> by number
     */
    private function byHour(array $series, int $from, int $to): array
    {
        $hours = $this->points->hours($series, $from - $from % self::HOUR, $to);
        $points = [];
        foreach ($series as $one) {
            $some = [];
            foreach ($hours[$one->id] ?? [] as $hour => $summary) {
                $some[] = $one->isCounter ? [($hour + self::HOUR) * 1_000 - 1, $summary->last] : [$hour * 1_000, $summary->high];
            }
            if ($some !== []) {
                $points[$one->id] = Points::of($some);
            }
        }

        return $points;
    }

    /** Where both have a value: a device that came later adds nothing to what was before. */
    private static function added(Points $a, Points $b): Points
    {
        $values = array_combine($a->timesMs, $a->values);
        foreach ($b->timesMs as $place => $atMs) {
            $values[$atMs] = ($values[$atMs] ?? 0.0) + $b->values[$place];
        }
        ksort($values);

        return new Points(array_keys($values), array_values($values));
    }
}
