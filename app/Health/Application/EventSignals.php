<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Models\Cluster;
use App\Metrics\Signals\Signal;
use App\Metrics\Signals\SignalSource;

/**
 * How often servers were started again, and variables set, in each step.
 */
final readonly class EventSignals implements SignalSource
{
    private const DELAY = 90;

    public function __construct(private ServerEvents $events)
    {
    }

    public function prefix(): string
    {
        return 'event';
    }

    public function signals(Cluster $cluster): array
    {
        return $cluster->isLive() ? [
            new Signal('event:'.ServerEvents::RESTART, 'Starts of the server', '', 1.0, 1.0, false),
            new Signal('event:'.ServerEvents::VARIABLE, 'Variables of the server that were set', '', 1.0, 1.0, false),
        ] : [];
    }

    public function delaySeconds(Cluster $cluster): int
    {
        return self::DELAY;
    }

    public function values(Cluster $cluster, string $key, int $from, int $to, int $step): array
    {
        $counts = array_fill(0, max(0, intdiv($to - $from + $step - 1, $step)), 0.0);
        foreach ($this->events->between($cluster, $from * 1_000_000, $to * 1_000_000 - 1, $key) as $event) {
            $place = intdiv(intdiv((int) $event->at_us, 1_000_000) - $from, $step);
            $counts[$place] = ($counts[$place] ?? 0.0) + 1.0;
        }

        return ['' => array_values($counts)];
    }
}
