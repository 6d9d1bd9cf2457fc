<?php

declare(strict_types=1);

namespace App\Health\Application;

use Fulcrion\Core\Health\NodeShape;
use Fulcrion\Core\Health\NodeUse;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;

/**
 * What a modelled node would tell of itself, by the names hosts have for it.
 */
final class NodeSeries
{
    /** @var array<string, list<array{int, float}>> milliseconds and value, by name */
    private array $points = [];

    /**
     * @param  array<string, float>  $counters where they are, by name
     */
    public function __construct(private readonly NodeShape $shape, private array $counters)
    {
    }

    /**
     * @param  bool  $isRead whether somebody was there to read it
     */
    public function add(int $at, int $seconds, NodeUse $use, bool $isRead): void
    {
        $grown = [
            'user' => round($use->userSeconds, 2), 'system' => round($use->systemSeconds, 2), 'iowait' => round($use->waitSeconds, 2),
            'idle' => round($use->idleSeconds, 2), 'read' => round($use->bytesRead), 'write' => round($use->bytesWritten),
            'busy' => round($use->diskSeconds, 3), 'in' => round($use->bytesIn), 'out' => round($use->bytesOut),
        ];
        $endMs = ($at + $seconds) * 1_000;
        foreach ($grown as $name => $more) {
            $this->counters[$name] = round(($this->counters[$name] ?? 0.0) + $more, 3);
            if ($isRead) {
                $this->points[$name][] = [$endMs, $this->counters[$name]];
            }
        }
        if ($isRead) {
            $this->points['memory'][] = [$endMs, round($use->memoryBytes)];
            $this->points['limit'][] = [$endMs, (float) $this->shape->memoryBytes];
            $this->points['count'][] = [$endMs, (float) $this->shape->cores];
        }
    }

    /**
     * @return array<string, float>
     */
    public function counters(): array
    {
        return $this->counters;
    }

    /**
     * @return list<array{Metric, Points}>
     */
    public function all(): array
    {
        $all = [];
        foreach (self::metrics() as $name => $metric) {
            if (isset($this->points[$name])) {
                $all[] = [$metric, Points::of($this->points[$name])];
            }
        }

        return $all;
    }

    /**
     * @return array<string, Metric>
     */
    private static function metrics(): array
    {
        $cpu = static fn (string $mode): Metric => new Metric('system.cpu.time', 's', 0.0, ['cpu.mode' => $mode], true);
        $disk = ['system.device' => 'disk'];
        $network = ['network.interface.name' => 'net'];

        return [
            'user' => $cpu('user'),
            'system' => $cpu('system'),
            'iowait' => $cpu('iowait'),
            'idle' => $cpu('idle'),
            'count' => new Metric('system.cpu.logical.count', '{cpu}', 0.0),
            'read' => new Metric('system.disk.io', 'By', 0.0, $disk + ['disk.io.direction' => 'read'], true),
            'write' => new Metric('system.disk.io', 'By', 0.0, $disk + ['disk.io.direction' => 'write'], true),
            'busy' => new Metric('system.disk.io_time', 's', 0.0, $disk, true),
            'in' => new Metric('system.network.io', 'By', 0.0, $network + ['network.io.direction' => 'receive'], true),
            'out' => new Metric('system.network.io', 'By', 0.0, $network + ['network.io.direction' => 'transmit'], true),
            'memory' => new Metric('system.memory.usage', 'By', 0.0, ['system.memory.state' => 'used']),
            'limit' => new Metric('system.memory.limit', 'By', 0.0),
        ];
    }
}
