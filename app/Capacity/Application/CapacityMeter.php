<?php

declare(strict_types=1);

namespace App\Capacity\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Metrics\Places\PlaceError;
use App\Metrics\Store\KeptSeries;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\SeriesBook;
use Fulcrion\Core\Capacity\StorageReading;
use Fulcrion\Core\Capacity\StoredPart;

/**
 * Measures how full everything is: what a cluster says of all it stores, and the file systems its hosts tell of.
 */
final readonly class CapacityMeter
{
    private const USED = 'system.filesystem.usage';

    private const LIMIT = 'system.filesystem.limit';

    private const MOUNT = 'system.filesystem.mountpoint';

    /** Older readings are none of now. */
    private const PATIENCE = 3_600;

    public function __construct(
        private Clusters $clusters,
        private SeriesBook $series,
        private PointStore $points,
        private CapacityStore $store,
    ) {
    }

    /**
     * @return int places that were measured
     *
     * @throws SourceError
     * @throws PlaceError
     */
    public function measure(Cluster $cluster, int $now): int
    {
        $measured = $this->hosts($cluster, $now);
        $source = $this->clusters->as(Actor::system(SystemActor::Meter, 'what takes space'))->space($cluster);
        if ($source === null) {
            return $measured;
        }
        $parts = $source->stored();
        $this->store->keepParts($cluster->id, $now, $parts);
        $limit = $source->storageBytes();
        if ($limit === null) {
            return $measured;
        }
        $used = array_sum(array_map(static fn (StoredPart $part): float => $part->bytes, $parts));
        $this->store->keep($cluster->id, CapacityStore::WHOLE, new StorageReading($now, $used, $limit));

        return $measured + 1;
    }

    private function hosts(Cluster $cluster, int $now): int
    {
        $series = $this->series->of($cluster->id, null, [self::USED, self::LIMIT]);
        $points = $this->points->points($series, $now - self::PATIENCE, $now + 1);
        $last = [];
        foreach ($series as $one) {
            $state = $one->labels['system.filesystem.state'] ?? 'used';
            $values = $points[$one->id]->values ?? [];
            if ($values !== [] && ($one->name === self::LIMIT || $state === 'used')) {
                $last[self::place($one)][$one->name] = $values[array_key_last($values)];
            }
        }
        $measured = 0;
        foreach ($last as $place => $values) {
            if (isset($values[self::USED], $values[self::LIMIT]) && $values[self::LIMIT] > 0) {
                $this->store->keep($cluster->id, $place, new StorageReading($now, $values[self::USED], $values[self::LIMIT]));
                $measured++;
            }
        }

        return $measured;
    }

    private static function place(KeptSeries $series): string
    {
        return trim("{$series->host} ".($series->labels[self::MOUNT] ?? ''));
    }
}
