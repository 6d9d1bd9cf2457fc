<?php

declare(strict_types=1);

namespace App\Metrics\Store;

use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Metrics\Readings;

/**
 * What a host was doing, by short names: series of several devices are added up, moment by moment.
 */
final readonly class HostReadings
{
    /** What processors do when they are at work, and when they are not. */
    public const AT_WORK = ['cpu.user', 'cpu.nice', 'cpu.system', 'cpu.interrupt', 'cpu.softirq'];

    public const NOT_AT_WORK = ['cpu.idle', 'cpu.iowait', 'cpu.steal'];

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
     * @param  int  $step seconds that are looked at together; minutes and longer are read from what they were like
     * @return array<string, Readings> by short name, with what lies just outside of the span
     */
    public function of(int $clusterId, string $host, int $from, int $to, int $patience, int $step = 1): array
    {
        return $this->byHost($this->series->of($clusterId, $host), array_keys(self::NAMES), $from, $to, $patience, $step)[$host]
            ?? array_map(static fn (): Readings => new Readings([], $patience), self::NAMES);
    }

    /** Whether a metric is one every host tells, by its name. */
    public static function isShown(string $metric): bool
    {
        return in_array($metric, array_column(self::NAMES, 0), true);
    }

    /**
     * The same from one reading that is not kept: values of several devices are added up.
     *
     * @param  list<Metric>  $metrics
     * @return array<string, float> by short name
     */
    public static function sums(array $metrics): array
    {
        $sums = [];
        foreach (self::NAMES as $short => [$name, $labels]) {
            foreach ($metrics as $one) {
                if ($one->name === $name && array_intersect_assoc($labels, $one->labels) === $labels) {
                    $sums[$short] = ($sums[$short] ?? 0.0) + $one->value;
                }
            }
        }

        return $sums;
    }

    /** How many hosts of a cluster are known. */
    public function hosts(int $clusterId): int
    {
        return $this->series->hosts($clusterId);
    }

    /**
     * The same of all hosts of a cluster.
     *
     * @param  list<string>  $names short ones
     * @return array<string, array<string, Readings>> by short name, by host
     */
    public function ofAll(int $clusterId, array $names, int $from, int $to, int $patience, int $step = 1): array
    {
        $metrics = array_values(array_unique(array_map(static fn (string $short): string => self::NAMES[$short][0], $names)));

        return $this->byHost($this->series->of($clusterId, null, $metrics), $names, $from, $to, $patience, $step);
    }

    /**
     * @param  list<KeptSeries>  $series
     * @param  list<string>  $names
     * @return array<string, array<string, Readings>>
     */
    private function byHost(array $series, array $names, int $from, int $to, int $patience, int $step): array
    {
        $span = Span::within($step);
        $points = $span === null ? $this->points->points($series, $from - $patience, $to + $patience)
            : $this->points->spanned($series, $from - $span->value, $to, $span);
        $patience += $span->value ?? 0;
        $byHost = [];
        foreach ($series as $one) {
            $byHost[$one->host][$one->name][] = $one;
        }
        $readings = [];
        foreach ($byHost as $host => $byName) {
            foreach ($names as $short) {
                [$name, $labels] = self::NAMES[$short];
                $sums = null;
                foreach ($byName[$name] ?? [] as $one) {
                    if (isset($points[$one->id]) && array_intersect_assoc($labels, $one->labels) === $labels) {
                        $sums = $sums === null ? $points[$one->id] : self::added($sums, $points[$one->id]);
                    }
                }
                $readings[$host][$short] = PointStore::readings($sums, $patience);
            }
        }

        return $readings;
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
