<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Models\Cluster;
use App\Health\Charts\StateChart;
use App\Platform\Figures\Figure;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Metrics\Readings;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Time\Steps;
use Fulcrion\Core\Time\Window;
use stdClass;

/**
 * How one server was in a window of time.
 */
final readonly class StatePage
{
    private const STEPS = [10, 30, 60, 300, 900, 3_600, 21_600];

    /** Intervals a figure shows at most. */
    private const MOST_STEPS = 240;

    /**
     * @param  list<array{StateChart, Figure}>  $charts
     * @param  list<stdClass>  $events
     * @param  list<stdClass>  $locks
     */
    private function __construct(
        public Cluster $cluster,
        public Window $window,
        public int $step,
        public array $charts,
        public array $events,
        public array $locks,
        private string $told,
    ) {
    }

    /**
     * @param  array<int, string>  $marks what happened, by Unix second
     */
    public static function of(
        Cluster $cluster,
        Window $window,
        int $now,
        DateTimeZone $zone,
        MetricStore $store,
        ServerEvents $events,
        RowLockTime $locks,
        array $marks,
    ): self {
        $step = self::step($window, $cluster->interval_seconds);
        $charts = StateChart::all();
        $names = ['uptime'];
        foreach ($charts as $chart) {
            foreach ($chart->measures as $measure) {
                array_push($names, ...$measure->of);
            }
        }
        $to = min($window->to, $now);
        $readings = $store->readings($cluster->id, array_values(array_unique($names)), $window->from, $to, $cluster->patienceSeconds());
        $gaps = $readings['questions']->gaps($to);
        $all = $events->between($cluster, $window->from * 1_000_000, $window->to * 1_000_000);
        $drawn = $window->from >= $to ? [] : StateChart::drawn($charts, $readings, $window, $step, $gaps, $marks, $zone);

        return new self(
            $cluster,
            $window,
            $step,
            $drawn,
            $all,
            $locks->of($cluster, $window->from, $window->to),
            self::sentenceOf($cluster, $readings, $window, $to, $all, $zone),
        );
    }

    public function sentence(): string
    {
        return $this->told;
    }

    public function hasReadings(): bool
    {
        return $this->charts !== [];
    }

    /** Seconds of an interval of a figure. */
    public static function step(Window $window, int $interval): int
    {
        $steps = array_filter(self::STEPS, static fn (int $step): bool => $step >= $interval);

        return Steps::shortest($window->to - $window->from, [...array_values($steps), 86_400], self::MOST_STEPS);
    }

    /**
     * @param  array<string, Readings>  $readings
     * @param  list<stdClass>  $events newest first
     */
    private static function sentenceOf(
        Cluster $cluster,
        array $readings,
        Window $window,
        int $to,
        array $events,
        DateTimeZone $zone,
    ): string {
        $name = $cluster->name;
        $restarts = array_values(array_filter($events, static fn (stdClass $one): bool => $one->kind === ServerEvents::RESTART));
        if ($restarts !== []) {
            $silentUs = max(0.0, (float) $restarts[0]->at_us - (float) $restarts[0]->before);

            return "{$name} was started again at ".moment((int) $restarts[0]->at_us, MomentStyle::Second, $zone).
                ', after up to '.Quantity::duration($silentUs).' without an answer';
        }
        $rate = $to > $window->from ? ($readings['questions']->rates($window->from, $to, max(1, $to - $window->from))[0] ?? null) : null;
        $most = $to > $window->from
            ? ($readings['threads_connected']->most($window->from, $to, max(1, $to - $window->from))[0] ?? null)
            : null;
        if ($rate === null) {
            return "Nothing is known of {$name} in this window";
        }
        $lost = $readings['questions']->unknown($window->from, $to);

        return "{$name} answered ".Quantity::digits($rate).' statements a second'.match (true) {
            $lost > 0 => ', and nothing is known of '.Quantity::duration($lost * 1e6).' of this window',
            $most === null => '',
            default => ', at most '.Quantity::count((int) $most).' connections at once',
        };
    }
}
