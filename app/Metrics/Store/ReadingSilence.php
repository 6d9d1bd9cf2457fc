<?php

declare(strict_types=1);

namespace App\Metrics\Store;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Metrics\Summary;
use Fulcrion\Core\Statistics\Spread;

/**
 * When hosts were not read.
 */
final readonly class ReadingSilence
{
    private const HOUR = 3_600;

    /** Less is not worth a word. */
    private const LEAST_SECONDS = 1_800;

    /** An hour with fewer readings than this part of the usual may have a gap. */
    private const FEW = 0.75;

    /** Hosts whose gaps begin and end within so many seconds of each other have one gap. */
    private const TOGETHER = 900;

    public function __construct(private SeriesBook $series, private PointStore $points)
    {
    }

    /**
     * From the first reading of each host on.
     *
     * @return list<array{non-empty-list<string>, int, int}> hosts that have a gap together, from their last reading before to the first one
     *     after it, or to the end, oldest first
     */
    public function of(Cluster $cluster, int $from, int $to): array
    {
        $one = [];
        foreach ($this->series->of($cluster->id) as $series) {
            // A host is read as a whole: one series tells when.
            $one[$series->host] ??= $series;
        }
        $hours = $this->points->summaries(array_values($one), $from, $to, Span::Hour);
        $together = [];
        foreach ($one as $host => $series) {
            foreach ($this->gaps($series, $hours[$series->id] ?? [], $to) as [$began, $ended]) {
                foreach ($together as $place => [$hosts, $first, $last]) {
                    if (abs($first - $began) <= self::TOGETHER && abs($last - $ended) <= self::TOGETHER) {
                        $together[$place] = [[...$hosts, $host], min($first, $began), max($last, $ended)];

                        continue 2;
                    }
                }
                $together[] = [[$host], $began, $ended];
            }
        }
        usort($together, static fn (array $a, array $b): int => $a[1] <=> $b[1]);

        return $together;
    }

    /**
     * @param  array<int, Summary>  $hours
     * @return list<array{int, int}>
     */
    private function gaps(KeptSeries $series, array $hours, int $to): array
    {
        if ($hours === []) {
            return [];
        }
        $usual = Spread::median(array_map(static fn (Summary $hour): int => $hour->count, $hours));
        $gaps = [];
        $first = (int) array_key_first($hours);
        for ($hour = $first; $hour < $to; $hour += self::HOUR) {
            $began = $hour;
            while ($hour < $to && ($hours[$hour]->count ?? 0) < self::FEW * $usual) {
                $hour += self::HOUR;
            }
            if ($hour === $began) {
                continue;
            }
            $points = $this->points->points([$series], $began - self::HOUR, $hour + self::HOUR)[$series->id] ?? null;
            // The hours around it say when exactly.
            $end = $hour >= $to ? $to : $hour + self::HOUR;
            array_push($gaps, ...PointStore::readings($points, self::LEAST_SECONDS)->gaps(min($to, $end)));
        }

        return $gaps;
    }
}
