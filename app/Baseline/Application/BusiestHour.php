<?php

declare(strict_types=1);

namespace App\Baseline\Application;

use App\Estate\Models\Cluster;
use App\Metrics\Signals\HostMeasure;
use App\Metrics\Signals\SignalSources;
use App\Metrics\Store\HostReadings;
use Fulcrion\Core\Baseline\BaselineResource;
use Fulcrion\Core\Baseline\ResourceUse;
use Fulcrion\Core\Metrics\Readings;
use Illuminate\Support\Facades\DB;

/**
 * What was used of each resource in the hour with most statements in flight.
 */
final readonly class BusiestHour
{
    public const PROCESSORS = 'processors';

    public const DISK = 'disk';

    public const NETWORK = 'network';

    private const HOUR = 3_600;

    private const PATIENCE = 900;

    private const NAMES = [...HostReadings::AT_WORK, 'cpu.count', 'disk.read', 'disk.write', 'network.in', 'network.out'];

    public function __construct(private HostReadings $readings)
    {
    }

    /**
     * @return int|null first second of the hour; null where nothing was in flight
     */
    public function find(Cluster $cluster, int $from, int $to): ?int
    {
        $hour = DB::table('load_by_origin_hour')->where('cluster_id', $cluster->id)->where('bucket_at', '>=', $from)
            ->where('bucket_at', '<', $to)
            ->groupBy('bucket_at')->orderByRaw('SUM(load_us) DESC')->limit(1)->value('bucket_at');

        return $hour === null ? null : (int) $hour;
    }

    /**
     * @param  array<string, array<string, float>>  $baselines values by resource, by host
     * @return list<ResourceUse>
     */
    public function uses(Cluster $cluster, int $hour, array $baselines): array
    {
        $uses = [];
        $step = SignalSources::step($cluster);
        $end = $hour + self::HOUR;
        foreach ($this->readings->ofAll($cluster->id, self::NAMES, $hour, $end, self::PATIENCE, $step) as $host => $readings) {
            $can = $baselines[$host] ?? [];
            $uses[] = ResourceUse::of((string) $host, self::PROCESSORS, self::processors($readings, $hour, $end, $step));
            if (isset($can[BaselineResource::DiskRead->value], $can[BaselineResource::DiskWrite->value])) {
                $uses[] = ResourceUse::of((string) $host, self::DISK, ResourceUse::disk(
                    $readings['disk.read']->rates($hour, $end, $step),
                    $readings['disk.write']->rates($hour, $end, $step),
                    $can[BaselineResource::DiskRead->value],
                    $can[BaselineResource::DiskWrite->value],
                ));
            }
            if (isset($can[BaselineResource::Network->value])) {
                $uses[] = ResourceUse::of((string) $host, self::NETWORK, ResourceUse::network(
                    $readings['network.in']->rates($hour, $end, $step),
                    $readings['network.out']->rates($hour, $end, $step),
                    $can[BaselineResource::Network->value],
                ));
            }
        }

        return array_values(array_filter($uses, static fn (?ResourceUse $one): bool => $one !== null));
    }

    /**
     * @param  array<string, Readings>  $readings
     * @return list<float|null> part of all processors that was at work
     */
    private static function processors(array $readings, int $from, int $to, int $step): array
    {
        $count = $readings['cpu.count']->last();
        $busy = HostMeasure::Processor->values($readings, $from, $to, $step);

        return array_map(static fn (?float $seconds): ?float => $seconds === null || ! ($count > 0) ? null : $seconds / $count, $busy);
    }
}
