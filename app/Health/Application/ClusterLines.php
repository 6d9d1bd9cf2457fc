<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Models\Cluster;
use App\Health\Probes\ProbeBook;
use App\Ledger\Findings\FindingState;
use App\Ledger\Models\Finding;
use App\Metrics\Places\PlaceError;
use App\Metrics\Signals\SignalSources;
use App\Metrics\Store\HostReadings;
use DateTimeZone;
use Fulcrion\Core\Health\Outlier;
use Fulcrion\Core\Health\ProbeScale;
use Fulcrion\Core\Metrics\Readings;
use Fulcrion\Core\Statistics\Spread;
use Illuminate\Support\Facades\DB;

/**
 * All clusters at a moment.
 */
final readonly class ClusterLines
{
    /** What was within so many seconds before tells of the moment. */
    private const BEFORE = 900;

    private const BUCKET = 300;

    /** Of a cluster that says itself how much it can store. */
    private const STORED = 'capacity:share';

    /** The signal of alerts that ring. */
    private const RINGING = 'alert:ringing';

    /** How old the newest good backup of each schema is. */
    private const BACKED_UP = 'backup:ages';

    private const PATIENCE = 700;

    private const PROBES = 28 * 86_400;

    public function __construct(private HostReadings $readings, private ProbeBook $probes, private SignalSources $signals)
    {
    }

    /**
     * @return list<ClusterLine> production first
     */
    public function at(int $at): array
    {
        return array_map(fn (Cluster $cluster): ClusterLine => $this->of($cluster, $at),
            array_values(Cluster::productionFirst()->get()->all()));
    }

    public function of(Cluster $cluster, int $at): ClusterLine
    {
        // Those that were open at that moment.
        $own = Finding::query()->where('cluster_id', $cluster->id)->where('first_us', '<=', $at * 1_000_000)
            ->where(static fn ($query) => $query->whereIn('state', FindingState::waiting())->orWhere('solved_us', '>', $at * 1_000_000))
            ->selectRaw('COUNT(*) AS findings, SUM(urgent) AS urgent')->toBase()->first();
        $load = DB::table('load_by_origin_five_minute')->where('cluster_id', $cluster->id)
            ->where('bucket_at', '>', $at - self::BEFORE)->where('bucket_at', '<=', $at - self::BUCKET)
            ->selectRaw('COUNT(DISTINCT bucket_at) AS buckets, SUM(load_us) AS load_us, SUM(queued_us) AS queued_us')->first();
        $seconds = self::BUCKET * (int) ($load->buckets ?? 0);
        $waiting = $seconds === 0 ? 0.0 : (int) ($load->queued_us ?? 0) / 1e6 / $seconds;
        $isReached = true;
        $readings = $nodes = [];
        try {
            $names = [...HostReadings::AT_WORK, ...HostReadings::NOT_AT_WORK, 'disk.busy', 'disk.used', 'disk.limit'];
            $readings = $this->readings->ofAll($cluster->id, $names,
                $at - self::BEFORE, $at, self::PATIENCE);
            $nodes = $this->nodes($cluster, $readings, $at);
        } catch (PlaceError) {
            $isReached = false;
        }

        $ages = $this->ages($cluster, $at);
        $oldest = $ages === [] ? null : max($ages);

        return new ClusterLine(
            $cluster,
            $nodes,
            $seconds === 0 ? null : max(0.0, (int) ($load->load_us ?? 0) / 1e6 / $seconds - $waiting),
            $waiting,
            self::fullness($readings, $at) ?? $this->signals->values($cluster, self::STORED, $at, $at + 1, 1)[''][0] ?? null,
            $this->probe($cluster, $at),
            (int) ($own->urgent ?? 0),
            (int) ($own->findings ?? 0),
            $isReached,
            (int) ($this->signals->values($cluster, self::RINGING, $at, $at + 1, 1)[''][0] ?? 0.0),
            $oldest,
            $oldest === null || $oldest === min($ages) ? '' : (string) array_search($oldest, $ages, true),
        );
    }

    /**
     * @return array<array-key, float> seconds, by schema
     */
    private function ages(Cluster $cluster, int $at): array
    {
        return Spread::known(array_map(static fn (array $one): ?float => $one[0] ?? null,
            $this->signals->values($cluster, self::BACKED_UP, $at - 1, $at, 1)));
    }

    /**
     * @param  array<string, array<string, Readings>>  $readings
     * @return list<NodeMark>
     */
    private function nodes(Cluster $cluster, array $readings, int $at): array
    {
        $slow = array_map(static fn (array $one): Outlier => $one[0], HostsBeside::slow($cluster, $at + 3_600, $this->readings));
        $odd = array_map(static fn (Outlier $one): string => $one->host, $slow);
        $nodes = [];
        foreach ($readings as $host => $its) {
            $rate = static fn (string $name): ?float => $its[$name]->rates($at - self::BEFORE, $at, self::BEFORE)[0] ?? null;
            $sum = static fn (array $names): float => array_sum(array_map(static fn (string $name): float => $rate($name) ?? 0.0, $names));
            $all = $sum(HostReadings::AT_WORK) + $sum(HostReadings::NOT_AT_WORK);
            $nodes[] = new NodeMark((string) $host, $all > 0.0 ? $sum(HostReadings::AT_WORK) / $all : null, $rate('disk.busy'),
                in_array($host, $odd, true));
        }

        return $nodes;
    }

    /**
     * @param  array<string, array<string, Readings>>  $readings
     */
    private static function fullness(array $readings, int $at): ?float
    {
        $used = $limit = 0.0;
        foreach ($readings as $its) {
            $used += $its['disk.used']->most($at - self::BEFORE, $at, self::BEFORE)[0] ?? 0.0;
            $limit += $its['disk.limit']->most($at - self::BEFORE, $at, self::BEFORE)[0] ?? 0.0;
        }

        return $limit > 0.0 ? $used / $limit : null;
    }

    private function probe(Cluster $cluster, int $at): ?float
    {
        $probe = $this->probes->of($cluster);

        return $probe === null ? null : ProbeScale::of(
            $this->probes->runs($probe, $at - self::PROBES, $at + self::BUCKET),
            new DateTimeZone('UTC'),
        )->middle($at - self::BUCKET, $at + self::BUCKET)[0] ?? null;
    }
}
