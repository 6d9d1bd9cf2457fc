<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Metrics\Store\HostReadings;
use App\Metrics\Store\KeptSeries;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\SeriesBook;
use App\Metrics\Store\Span;
use Fulcrion\Core\Metrics\Summary;

/**
 * What is told of a host beside what every host tells.
 */
final readonly class OtherMetrics
{
    /** Series that are shown; a table of more is read by nobody. */
    public const MOST = 300;

    public function __construct(private SeriesBook $series, private PointStore $points)
    {
    }

    /**
     * @return array{list<array{KeptSeries, Summary}>, int} series with what they were in the window, and how many there are in all
     */
    public function of(int $clusterId, string $host, int $from, int $to): array
    {
        $others = array_values(array_filter(
            $this->series->of($clusterId, $host),
            static fn (KeptSeries $one): bool => ! HostReadings::isShown($one->name),
        ));
        $some = array_slice($others, 0, self::MOST);
        $span = Span::within(intdiv($to - $from, 4)) ?? Span::Minute;
        $rows = [];
        $summaries = $this->points->summaries($some, $from, $to, $span);
        foreach ($some as $one) {
            $whole = null;
            foreach ($summaries[$one->id] ?? [] as $summary) {
                $whole = $whole === null ? $summary : $whole->then($summary);
            }
            if ($whole !== null) {
                $rows[] = [$one, $whole];
            }
        }

        return [$rows, count($others)];
    }
}
