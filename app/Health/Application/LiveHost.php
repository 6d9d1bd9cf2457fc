<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Metrics\Store\HostReadings;
use App\Metrics\Store\ProcessStore;
use App\Metrics\Store\ThisHost;
use App\Platform\Support\Clock;
use Fulcrion\Core\Metrics\BusyProcess;
use Fulcrion\Core\Metrics\HostProcess;
use Illuminate\Contracts\Cache\Repository;

/**
 * What a host does now: this one is read at each look and held against the look before, of others the last that was kept is shown.
 */
final readonly class LiveHost
{
    /** A look that is longer ago is none to be held against. */
    private const LOOK_SECONDS = 30;

    private const HISTORY = 60;

    private const PROCESSES = 10;

    /** The shortest time two looks can be apart and say something, and how long a first one waits for its second. */
    private const APART_MS = 200;

    private const FIRST_US = 400_000;

    private const KEPT = 900;

    private const PATIENCE = 700;

    /** Short names of what is so much at a moment; all else grows. */
    private const GAUGES = ['cpu.count', 'load', 'memory.used', 'memory.limit', 'disk.used', 'disk.limit'];

    public function __construct(
        private ThisHost $own,
        private HostReadings $readings,
        private ProcessStore $processes,
        private Repository $cache,
    ) {
    }

    /**
     * @param  string  $person whose looks are compared with each other
     */
    public function own(string $person): LiveView
    {
        $key = "live-host:{$person}";
        $before = $this->cache->get($key);
        if (! is_array($before) || ! isset($before['ms'], $before['values'], $before['cpu'], $before['busy'])) {
            $before = $this->look() + ['busy' => []];
            usleep(self::FIRST_US);
        }
        $now = $this->look();
        $ms = $now['ms'] - (int) $before['ms'];
        if ($ms < self::APART_MS) {
            usleep(self::FIRST_US);
            $now = $this->look();
            $ms = $now['ms'] - (int) $before['ms'];
        }
        $seconds = max(1, $ms) / 1_000;
        $values = [];
        foreach ($now['values'] as $short => $value) {
            $grown = $value - (float) ($before['values'][$short] ?? $value);
            $values[$short] = in_array($short, self::GAUGES, true) ? $value : max(0.0, $grown) / $seconds;
        }
        $busiest = BusyProcess::most($now['processes'], (array) $before['cpu'], $seconds, self::PROCESSES);
        $view = new LiveView(intdiv($now['ms'], 1_000), $seconds, $values, $busiest,
            array_map(floatval(...), array_values((array) $before['busy'])));
        $this->cache->put($key, [
            'ms' => $now['ms'], 'values' => $now['values'], 'cpu' => $now['cpu'],
            'busy' => array_slice([...$view->before, $view->busy() ?? 0.0], -self::HISTORY),
        ], self::LOOK_SECONDS);

        return $view;
    }

    /** The last interval that was kept of a host before a moment; null where none was. */
    public function kept(int $clusterId, string $host, int $at): ?LiveView
    {
        $readings = $this->readings->of($clusterId, $host, $at - self::KEPT, $at, self::PATIENCE);
        foreach ([60, 300, self::KEPT] as $step) {
            $values = [];
            $last = null;
            $from = $at - self::KEPT;
            $idle = $readings['cpu.idle']->rates($from, $at, $step);
            foreach ($idle as $place => $one) {
                $last = $one === null ? $last : $place;
            }
            if ($last === null) {
                continue;
            }
            foreach ($readings as $short => $one) {
                $list = in_array($short, self::GAUGES, true) ? $one->most($from, $at, $step) : $one->rates($from, $at, $step);
                $values[$short] = $list[$last] ?? null;
            }

            return new LiveView($from + ($last + 1) * $step, (float) $step, $values, $this->processes->at($clusterId, $host, $at), []);
        }

        return null;
    }

    /**
     * @return array{ms: int, values: array<string, float>, cpu: array<int, float>, processes: array<int, HostProcess>}
     */
    private function look(): array
    {
        $processes = $this->own->processes();

        return [
            'ms' => intdiv(Clock::microseconds(), 1_000),
            'values' => HostReadings::sums($this->own->read()),
            'cpu' => array_map(static fn (HostProcess $one): float => $one->cpuSeconds, $processes),
            'processes' => $processes,
        ];
    }
}
