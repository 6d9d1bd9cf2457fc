<?php

declare(strict_types=1);

namespace App\Metrics\Signals;

use App\Estate\Models\Cluster;
use App\Metrics\Store\HostReadings;
use App\Metrics\Store\KeptSeries;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\SeriesBook;
use App\Metrics\Store\Span;
use Fulcrion\Core\Statistics\Spread;

/**
 * What hosts tell: what all of them do, and every other metric by its name.
 */
final readonly class HostSignals implements SignalSource
{
    /** Other metrics that are offered. */
    private const MOST = 200;

    private const OTHER = 'metric.';

    /** Nodes of practice clusters are computed every five minutes, up to five minutes ago. */
    private const COMPUTED = 900;

    private const READ = 90;

    private const PATIENCE = 700;

    public function __construct(private HostReadings $readings, private SeriesBook $series, private PointStore $points)
    {
    }

    public function prefix(): string
    {
        return 'host';
    }

    public function signals(Cluster $cluster): array
    {
        $signals = $others = [];
        $isKnown = false;
        // What the server itself counts is looked at on pages of its own.
        foreach ($this->series->names($cluster->id, $cluster->slug) as [$name, $unit, $isCounter]) {
            if (HostReadings::isShown($name)) {
                $isKnown = true;
            } else {
                $others[$name] = trim(($unit === '1' ? '' : $unit).($isCounter ? ' a second' : ''));
            }
        }
        if ($isKnown) {
            $signals = array_map(static fn (HostSignal $one): Signal => $one->signal(), HostSignal::cases());
        }
        ksort($others);
        foreach (array_slice($others, 0, self::MOST) as $name => $unit) {
            $signals[] = new Signal('host:'.self::OTHER.$name, $name, $unit, 1.0, 1.0, true);
        }

        return $signals;
    }

    public function delaySeconds(Cluster $cluster): int
    {
        return $cluster->connector === 'practice' ? self::COMPUTED : self::READ;
    }

    public function values(Cluster $cluster, string $key, int $from, int $to, int $step): array
    {
        $signal = HostSignal::tryFrom($key);
        $values = [];
        if ($signal !== null) {
            foreach ($this->readings->ofAll($cluster->id, $signal->names(), $from, $to, self::PATIENCE, $step) as $host => $readings) {
                if ($host !== $cluster->slug) {
                    $values[$host] = $signal->values($readings, $from, $to, $step);
                }
            }
        } elseif (str_starts_with($key, self::OTHER)) {
            $values = $this->other($cluster, substr($key, strlen(self::OTHER)), $from, $to, $step);
        }

        return $values;
    }

    /**
     * Of a gauge the most of a step, of a counter its growth a second; all series of a host added up.
     *
     * @return array<array-key, list<float|null>>
     */
    private function other(Cluster $cluster, string $name, int $from, int $to, int $step): array
    {
        $series = array_values(array_filter($this->series->of($cluster->id, null, [$name]),
            static fn (KeptSeries $one): bool => $one->host !== $cluster->slug));
        $span = Span::within($step);
        $patience = self::PATIENCE + ($span->value ?? 0);
        $points = $this->points->spanned($series, $from - $patience, $to, $span);
        $lists = [];
        foreach ($series as $one) {
            $readings = PointStore::readings($points[$one->id] ?? null, $patience);
            $lists[$one->host][] = $one->isCounter ? $readings->rates($from, $to, $step) : $readings->most($from, $to, $step);
        }

        return array_map(Spread::sums(...), $lists);
    }
}
