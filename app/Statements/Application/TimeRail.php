<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Estate\Models\Cluster;
use App\Platform\Figures\TimeMarks;
use App\Platform\Support\Clock;
use App\Telemetry\Store\ReadingGaps;

/**
 * The last fourteen days of a cluster: its load, when nothing was read, and what happened.
 */
final readonly class TimeRail
{
    public function __construct(private LoadSeries $series, private ReadingGaps $gaps, private TimeMarks $marks)
    {
    }

    /**
     * @return array{from: int, to: int, step: int, loads: list<float>, gaps: list<array{int, int}>, marks: array<int, string>}
     */
    public function of(Cluster $cluster): array
    {
        $now = Clock::seconds();
        $rail = $this->series->rail($cluster->id, $now);

        return $rail + [
            'gaps' => $this->gaps->of($cluster, $rail['from'], min($now, $rail['to']), $now),
            'marks' => $this->marks->of($cluster->id, $rail['from'], $rail['to']),
        ];
    }
}
