<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Health\Charts\HostCharts;
use App\Health\Charts\StateChart;
use App\Metrics\Store\HostReadings;
use App\Platform\Figures\Figure;
use DateTimeZone;
use Fulcrion\Core\Metrics\Readings;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Time\Window;

/**
 * How one host was in a window of time.
 */
final readonly class HostPage
{
    /** Seconds between two readings. */
    public const INTERVAL = 10;

    /** What processors do for programs and the system. */
    private const AT_WORK = ['user', 'nice', 'system', 'interrupt', 'softirq'];

    /** Less of it is not worth a word. */
    private const MUCH_STOLEN = 0.1;

    /** Readings further apart have a gap between them. */
    private const PATIENCE = 45;

    /**
     * @param  list<array{StateChart, Figure}>  $charts
     */
    private function __construct(public string $host, public int $step, public array $charts, public string $sentence)
    {
    }

    /**
     * @param  array<int, string>  $marks what happened, by Unix second
     */
    public static function of(
        int $clusterId,
        string $host,
        Window $window,
        int $now,
        DateTimeZone $zone,
        HostReadings $store,
        array $marks,
    ): self {
        $step = StatePage::step($window, self::INTERVAL);
        $to = min($window->to, $now);
        $readings = $store->of($clusterId, $host, $window->from, $to, self::PATIENCE, $step);
        $drawn = $window->from >= $to ? [] : StateChart::drawn(
            HostCharts::all(),
            $readings,
            $window,
            $step,
            $readings['cpu.idle']->gaps($to),
            $marks,
            $zone,
        );

        return new self($host, $step, $drawn, self::sentence($host, $readings, $window->from, $to));
    }

    /**
     * @param  array<string, Readings>  $readings
     */
    private static function sentence(string $host, array $readings, int $from, int $to): string
    {
        $span = max(1, $to - $from);
        $rate = static fn (string $name): ?float => $to > $from ? $readings[$name]->rates($from, $to, $span)[0] ?? null : null;
        $seconds = static fn (array $modes): float => array_sum(array_map(
            static fn (string $mode): float => $rate("cpu.{$mode}") ?? 0.0,
            $modes,
        ));
        $atWork = $seconds(self::AT_WORK);
        // All there is, as far as it was counted: a machine that got less than its time has not had it.
        $all = $atWork + $seconds(['idle', 'iowait', 'steal']);
        if ($rate('cpu.idle') === null || $all <= 0.0) {
            return "Nothing is known of {$host} in this window";
        }
        $stolen = $seconds(['steal']) / $all;
        $used = $readings['memory.used']->most($from, $to, $span)[0] ?? null;
        $limit = $readings['memory.limit']->most($from, $to, $span)[0] ?? null;
        $lost = $readings['cpu.idle']->unknown($from, $to);

        return "{$host} was ".Quantity::percent($atWork / $all).' busy'.match (true) {
            $lost > 0 => ', and nothing is known of '.Quantity::duration($lost * 1e6).' of this window',
            $stolen > self::MUCH_STOLEN => ', and '.Quantity::percent($stolen).' of its time went to other machines beside it',
            $used !== null && $limit !== null && $limit > 0 => ', with at most '.Quantity::percent($used / $limit).' of its memory used',
            default => '',
        };
    }
}
