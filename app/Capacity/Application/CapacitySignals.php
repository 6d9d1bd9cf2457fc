<?php

declare(strict_types=1);

namespace App\Capacity\Application;

use App\Estate\Models\Cluster;
use App\Metrics\Signals\Signal;
use App\Metrics\Signals\SignalSource;
use Fulcrion\Core\Capacity\StorageReading;
use Illuminate\Support\Facades\DB;

/**
 * How full all is that a cluster stores, for alerts and for whoever shows it.
 */
final readonly class CapacitySignals implements SignalSource
{
    private const SHARE = 'share';

    private const HOUR = 3_600;

    public function __construct(private CapacityStore $store)
    {
    }

    public function prefix(): string
    {
        return 'capacity';
    }

    public function signals(Cluster $cluster): array
    {
        return DB::table('capacity_readings')->where('cluster_id', $cluster->id)->where('place', CapacityStore::WHOLE)->exists()
            ? [new Signal('capacity:'.self::SHARE, 'Storage of the cluster used', '%', 0.01, 85.0, false, isLimited: true)]
            : [];
    }

    public function delaySeconds(Cluster $cluster): int
    {
        return self::HOUR;
    }

    public function values(Cluster $cluster, string $key, int $from, int $to, int $step): array
    {
        if ($key !== self::SHARE) {
            return [];
        }
        $readings = $this->store->readings($cluster->id, CapacityStore::WHOLE, $from - 2 * self::HOUR, $to);
        if ($readings === []) {
            return [];
        }
        $values = [];
        $place = 0;
        for ($at = $from; $at < $to; $at += $step) {
            // The last reading before the end of the step, where it is no older than two hours.
            while (isset($readings[$place + 1]) && $readings[$place + 1]->at < $at + $step) {
                $place++;
            }
            $values[] = self::share($readings[$place], $at, $step);
        }

        return ['' => $values];
    }

    private static function share(StorageReading $one, int $at, int $step): ?float
    {
        return $one->at >= $at + $step || $one->at < $at - 2 * self::HOUR || $one->limitBytes <= 0 ? null
            : $one->usedBytes / $one->limitBytes;
    }
}
