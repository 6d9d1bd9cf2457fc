<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Metrics\Store\PointStore;
use App\Telemetry\Workload\EstateReader;
use Fulcrion\Core\Health\LoadRow;
use Fulcrion\Core\Health\NodeModel;
use Fulcrion\Core\Health\WorkInFlight;
use Fulcrion\Core\Statistics\NormalDraw;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * What nodes of practice clusters do, from the executions that were in flight, by five minutes. It is kept like what hosts tell of
 * themselves.
 */
final readonly class PracticeNodes
{
    public const INTERVAL = 300;

    /** Executions are told when they end: so long after an interval they are there. */
    private const PATIENCE = 300;

    /** What began before may still be in flight. */
    private const BEFORE = 6 * 3_600;

    /** A cluster that is new is computed from so long ago. */
    private const FIRST = 28 * 86_400;

    /** Rows of a day are looked at together. */
    private const AT_ONCE = 86_400;

    public function __construct(private Clusters $clusters, private EstateReader $estate, private PointStore $points)
    {
    }

    /**
     * Goes on where it ended the last time.
     *
     * @return int values kept
     *
     * @throws SourceError
     */
    public function compute(Cluster $cluster, int $now): int
    {
        $to = $now - self::PATIENCE;
        $first = DB::table('load_by_origin_five_minute')->where('cluster_id', $cluster->id)->where('bucket_at', '>=', $now - self::FIRST)
            ->min('bucket_at');

        return $first === null ? 0 : $this->span($cluster, (int) $first, $to - $to % self::INTERVAL);
    }

    /**
     * @param  int  $first where nothing is computed yet, from here
     * @param  int|null  $silentUntil nothing was read until then: counters went on, and nobody knows how
     * @return int values kept
     *
     * @throws SourceError
     */
    public function span(Cluster $cluster, int $first, int $to, ?int $silentUntil = null): int
    {
        $source = $this->clusters->as(Actor::system(SystemActor::Health, 'what nodes do'))->nodes($cluster);
        if ($source === null) {
            return 0;
        }
        $set = $source->nodes();
        $shares = $this->shares($cluster, count($set->names));

        return DB::transaction(function () use ($cluster, $set, $shares, $first, $to, $silentUntil): int {
            // One at a time; a second one finds that all is done.
            DB::table('practice_nodes')->insertOrIgnore(['cluster_id' => $cluster->id, 'until_at' => $first, 'counters' => '[]']);
            $state = DB::table('practice_nodes')->where('cluster_id', $cluster->id)->lockForUpdate()->first();
            $from = (int) ($state->until_at ?? $first);
            if ($from >= $to) {
                return 0;
            }
            $counters = (array) json_decode((string) ($state->counters ?? '[]'), true);
            $kept = 0;
            $model = new NodeModel($set, self::noise($cluster->id));
            $flight = new WorkInFlight();
            $series = array_map(static fn (string $name): NodeSeries => new NodeSeries($set->shape, (array) ($counters[$name] ?? [])),
                array_combine($set->names, $set->names));
            foreach ($this->intervals($cluster->id, $from - self::BEFORE, $to) as $at => $rows) {
                $uses = $model->next($at, self::INTERVAL, $flight->next($rows), $shares);
                if ($at >= $from) {
                    foreach ($set->names as $node => $name) {
                        $series[$name]->add($at, self::INTERVAL, $uses[$node], $at + self::INTERVAL > ($silentUntil ?? 0));
                    }
                }
            }
            foreach ($series as $name => $one) {
                $kept += $this->points->keep($cluster->id, $name, $one->all());
                $counters[$name] = $one->counters();
            }
            DB::table('practice_nodes')->where('cluster_id', $cluster->id)->update([
                'until_at' => $to, 'counters' => json_encode($counters, JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION),
            ]);

            return $kept;
        });
    }

    /**
     * Every interval of a span, those without any execution among them.
     *
     * @return iterable<int, list<LoadRow>>
     */
    private function intervals(int $clusterId, int $from, int $to): iterable
    {
        for ($day = $from; $day < $to; $day += self::AT_ONCE) {
            $end = min($to, $day + self::AT_ONCE);
            $rows = [];
            foreach (DB::table('load_five_minute')->where('cluster_id', $clusterId)->where('bucket_at', '>=', $day)
                ->where('bucket_at', '<', $end)->orderBy('bucket_at')->get(['bucket_at', 'statement_id', 'origin_id', 'duration_us',
                    'load_us', 'queued_us', 'cpu_us', 'bytes_scanned', 'bytes_spilled']) as $row) {
                $rows[(int) $row->bucket_at][] = self::row($row);
            }
            for ($at = $day; $at < $end; $at += self::INTERVAL) {
                yield $at => $rows[$at] ?? [];
            }
        }
    }

    private static function row(stdClass $row): LoadRow
    {
        return new LoadRow(
            (int) $row->statement_id,
            (int) $row->origin_id,
            (int) $row->duration_us,
            (int) $row->load_us,
            (int) $row->queued_us,
            (int) $row->cpu_us,
            (int) $row->bytes_scanned,
            (int) $row->bytes_spilled,
        );
    }

    /**
     * Which part of what a statement reads lies on each node, by the rows of its tables there.
     *
     * @return array<int, list<float>> by number of the statement
     *
     * @throws SourceError
     */
    private function shares(Cluster $cluster, int $nodes): array
    {
        $tables = [];
        foreach ($this->estate->outlines($cluster) as $name => $outline) {
            $sum = array_sum($outline->rowsByNode);
            if ($sum > 0 && count($outline->rowsByNode) === $nodes) {
                $tables[$name] = array_map(static fn (int $rows): float => $rows / $sum, $outline->rowsByNode);
            }
        }
        $shares = $weights = [];
        foreach (DB::table('statement_tables')->where('cluster_id', $cluster->id)->where('is_read', true)
            ->get(['statement_id', 'path', 'weight']) as $row) {
            $statement = (int) $row->statement_id;
            foreach ($tables[$row->path] ?? [] as $node => $part) {
                $shares[$statement][$node] = ($shares[$statement][$node] ?? 0.0) + $row->weight * $part;
            }
            $weights[$statement] = ($weights[$statement] ?? 0.0) + (isset($tables[$row->path]) ? $row->weight : 0.0);
        }
        $known = [];
        foreach ($shares as $statement => $parts) {
            if ($weights[$statement] > 0) {
                $known[$statement] = array_values(array_map(static fn (float $part): float => $part / $weights[$statement], $parts));
            }
        }

        return $known;
    }

    /** The same for the same moment, whenever it is computed. */
    private static function noise(int $clusterId): \Closure
    {
        return static function (string $what, int $node, int $at) use ($clusterId): float {
            $bits = unpack('V2', hash('xxh3', "{$clusterId} {$what} {$node} {$at}", true));
            [$a, $b] = is_array($bits) ? [(int) $bits[1], (int) $bits[2]] : [0, 0];

            return NormalDraw::of((1 + $a) / 4_294_967_296, $b / 4_294_967_296);
        };
    }
}
