<?php

declare(strict_types=1);

namespace App\Capacity\Application;

use App\Estate\Models\Cluster;
use App\Metrics\Store\KeptSeries;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\SeriesBook;

/**
 * Requests to a store and errors of it, where it counts them: counters whose names say so.
 */
final readonly class StoreRequests
{
    private const PATIENCE = 7_200;

    private const REQUESTS = '~(^|[._])(store|storage|s3|object)[._a-z]*requests?~';

    private const ERRORS = '~(^|[._])(store|storage|s3|object)[._a-z]*(errors?|failures?)~';

    public function __construct(private SeriesBook $series, private PointStore $points)
    {
    }

    /**
     * @return array{requests: float|null, errors: float|null} counted in a span; null where nobody tells
     */
    public function of(Cluster $cluster, int $from, int $to): array
    {
        $counters = array_filter($this->series->of($cluster->id), static fn (KeptSeries $one): bool => $one->isCounter
            && preg_match('~'.trim(self::REQUESTS, '~').'|'.trim(self::ERRORS, '~').'~', $one->name) === 1);
        $points = $this->points->points(array_values($counters), $from, $to);
        $counted = ['requests' => null, 'errors' => null];
        foreach ($counters as $one) {
            $rate = PointStore::readings($points[$one->id] ?? null, self::PATIENCE)->rates($from, $to, $to - $from)[0] ?? null;
            if ($rate !== null) {
                $what = preg_match(self::ERRORS, $one->name) === 1 ? 'errors' : 'requests';
                $counted[$what] = ($counted[$what] ?? 0.0) + $rate * ($to - $from);
            }
        }

        return $counted;
    }
}
