<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Capacity\Application\CapacityMeter;
use App\Capacity\Application\CapacityStore;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use Fulcrion\Core\Capacity\PartKind;
use Fulcrion\Core\Capacity\StorageReading;
use Fulcrion\Core\Capacity\StoredPart;
use Fulcrion\Practice\Storage\NodeBook;
use Fulcrion\Practice\Storage\SpaceReader;
use Fulcrion\Practice\Storage\Warehouse;

/**
 * How full the storage of the demo world was: a load each Sunday, and on Fernhill a snapshot each week that never goes. What there is today
 * is read; the days before have less of it. How much can be stored is what makes Fernhill full in about five weeks.
 */
final readonly class DemoCapacity
{
    private const DAY = 86_400;

    private const HOUR = 3_600;

    private const DAYS = 29;

    /** What each Sunday brought, as a part of what there is today, and when. */
    private const LOAD = 0.025;

    private const LOAD_HOUR = 2;

    /** Weeks of growth that fit in still. */
    private const WEEKS_LEFT = 5.1;

    /** Of Wren is used so much. */
    private const WREN_SHARE = 0.4;

    public function __construct(private CapacityStore $store, private CapacityMeter $meter)
    {
    }

    public function write(int $now): void
    {
        foreach (['fernhill', 'wren'] as $slug) {
            $cluster = Cluster::query()->where('slug', $slug)->first();
            if ($cluster === null || $this->store->places($cluster->id, 0, $now) !== []) {
                continue;
            }
            $warehouse = Warehouse::open(PracticeClusters::root($slug));
            $parts = SpaceReader::parts($warehouse, $now);
            $used = static fn (array $parts): float => array_sum(array_map(static fn (StoredPart $part): float => $part->bytes, $parts));
            $bytes = $used($parts);
            $grown = ($bytes - $used(self::at($parts, $now - 28 * self::DAY, $now, $slug === 'fernhill'))) / 4;
            $limit = $slug === 'fernhill' ? $bytes + self::WEEKS_LEFT * $grown : $bytes / self::WREN_SHARE;
            NodeBook::setStorageBytes($warehouse, (int) round($limit, -9));
            $readings = [];
            $today = $now - $now % self::DAY;
            for ($at = $today - (self::DAYS - 1) * self::DAY; $at < $now; $at += self::HOUR) {
                $was = self::at($parts, $at, $now, $slug === 'fernhill');
                $readings[] = new StorageReading($at, $used($was), round($limit, -9));
                if ($at % self::DAY === 23 * self::HOUR) {
                    $this->store->keepParts($cluster->id, $at, $was);
                }
            }
            $this->store->keep($cluster->id, CapacityStore::WHOLE, ...$readings);
            $this->meter->measure($cluster, $now);
        }
    }

    /**
     * @param  list<StoredPart>  $parts those of now
     * @return list<StoredPart>
     */
    private static function at(array $parts, int $at, int $now, bool $isFernhill): array
    {
        if (! $isFernhill) {
            return $parts;
        }
        $loads = $snapshots = 0;
        $today = $now - $now % self::DAY;
        for ($day = $today - self::DAYS * self::DAY; $day <= $today; $day += self::DAY) {
            $second = $day + self::LOAD_HOUR * self::HOUR;
            $loads += (int) (gmdate('N', $day) === '7' && $second > $at && $second <= $now);
        }
        foreach (PracticeWorld::SNAPSHOT_DAYS as $days) {
            $snapshots += (int) ($today - $days * self::DAY + intdiv(PracticeWorld::SNAPSHOT_US, 1_000_000) > $at);
        }
        $all = count(PracticeWorld::SNAPSHOT_DAYS);
        $was = [];
        foreach ($parts as $part) {
            $share = $part->kind === PartKind::Versions ? ($all - $snapshots) / $all : 1 - self::LOAD * $loads;
            if ($share > 0.0) {
                $was[] = new StoredPart($part->kind, $part->object, $part->bytes * $share);
            }
        }

        return $was;
    }
}
