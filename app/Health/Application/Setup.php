<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\Connection;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Health\Probes\ProbeBook;
use App\Metrics\Places\KeptPlace;
use App\Metrics\Places\PlaceError;
use App\Metrics\Places\Places;
use App\Metrics\Store\HostReadings;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\SeriesBook;
use App\Metrics\Store\Span;
use App\Platform\Support\Clock;
use Fulcrion\Core\Metrics\Summary;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;

/**
 * What monitoring of a cluster needs, what of it is there, and whether what is kept is what the server says.
 */
final readonly class Setup
{
    private const HOUR = 3_600;

    /** Counters of a server that are held against its own answer. */
    private const COMPARED = [
        'questions', 'handler_update', 'innodb_data_read', 'created_tmp_tables', 'innodb_buffer_pool_read_requests',
    ];

    /** Of bytes of nodes beside those of executions: each node counts whole ones. */
    private const ROUNDING = 1e-6;

    /** No execution is in flight for longer. */
    private const OPEN_SECONDS = 6 * 3_600;

    public function __construct(
        private Connection $connection,
        private Clusters $clusters,
        private ProbeBook $probes,
        private SeriesBook $series,
        private PointStore $points,
        private StateKeeper $keeper,
        private MetricStore $states,
        private HostReadings $readings,
    ) {
    }

    /**
     * @return list<SetupStep> in the order in which they are done
     */
    public function steps(Cluster $cluster): array
    {
        $own = ['Settings of '.$cluster->name, address('cluster.edit', $cluster->slug)];
        $steps = [];
        if ($cluster->isLive()) {
            $missing = $this->connection->check($cluster);
            foreach ($missing as $one) {
                $steps[] = new SetupStep($one['problem'], 'act', $one['keeps'], $one['remedy'], $own);
            }
            if ($missing === []) {
                $steps[] = new SetupStep('The server can be read', 'calm', 'The account of the collector has every right it needs.');
            }
        } else {
            $isHeard = $this->heard($cluster);
            $steps[] = new SetupStep('Executions come in', $isHeard ? 'calm' : 'watch', $isHeard ? 'Executions of the last day are known.'
                : 'None of the last day is known: import files, or send them with a token.', '', $own);
        }
        $steps[] = self::kept($cluster, $own);
        $hosts = $this->hostsRead($cluster);
        $steps[] = $hosts === null ? new SetupStep('Its hosts', 'no data', 'Not known as long as the readings cannot be reached.')
            : new SetupStep('Its hosts', $hosts === 0 ? 'watch' : 'calm', $hosts === 0
            ? 'No host is read, so that nobody knows what its machines do.'
            : $hosts.' '.($hosts === 1 ? 'host was' : 'hosts were').' read in the last hour.', '',
                ['Sources of metrics', address('source.index')]);
        $probe = $this->probes->of($cluster);
        $steps[] = new SetupStep('A probe', $probe === null || ! $probe->isOn ? 'watch' : 'calm', $probe === null || ! $probe->isOn
            ? 'None runs, so that nobody can say whether it is the system.' : 'It runs every '.intdiv($probe->everySeconds, 60).' min.', '',
            ['Set a probe', address('system.show').'?'.http_build_query(['cluster' => $cluster->slug]).'#probe']);

        return $steps;
    }

    /**
     * Reads now, and holds what is kept against the server's own answer before and after.
     *
     * @return list<array{what: string, before: string, kept: string, after: string, agrees: bool}>
     *
     * @throws SourceError where it cannot be asked
     */
    public function compare(Cluster $cluster): array
    {
        return $cluster->isLive() ? $this->compareServer($cluster) : $this->compareNodes($cluster);
    }

    /**
     * @return list<array{what: string, before: string, kept: string, after: string, agrees: bool}>
     *
     * @throws SourceError
     */
    private function compareServer(Cluster $cluster): array
    {
        $source = $this->clusters->as(Actor::system(SystemActor::Collector, 'a check of what is kept'))->states($cluster)
            ?? throw new SourceError("{$cluster->name} does not say how it is.");
        $before = $source->state()->values;
        $this->keeper->read($cluster);
        $after = $source->state()->values;
        $now = Clock::seconds();
        $kept = $this->states->readings($cluster->id, self::COMPARED, $now - 60, $now + 2, 5);
        $rows = [];
        foreach (self::COMPARED as $name) {
            if (isset($before[$name], $after[$name])) {
                $value = $kept[$name]->last();
                $low = min($before[$name], $after[$name]);
                $high = max($before[$name], $after[$name]);
                $rows[] = [
                    'what' => $name, 'before' => Quantity::count((int) $before[$name]),
                    'kept' => $value === null ? Quantity::NONE : Quantity::count((int) $value),
                    'after' => Quantity::count((int) $after[$name]),
                    'agrees' => $value !== null && $value >= $low && $value <= $high,
                ];
            }
        }

        return $rows;
    }

    /**
     * Of all that is computed: bytes of all nodes beside bytes of all executions.
     *
     * @return list<array{what: string, before: string, kept: string, after: string, agrees: bool}>
     *
     * @throws SourceError
     */
    private function compareNodes(Cluster $cluster): array
    {
        $until = DB::table('practice_nodes')->where('cluster_id', $cluster->id)->value('until_at');
        if ($until === null) {
            throw new SourceError("Nodes of {$cluster->name} are not computed yet; that is done every five minutes.");
        }
        $to = (int) $until;
        $from = (int) DB::table('load_five_minute')->where('cluster_id', $cluster->id)->min('bucket_at');
        // Of what began in the last hours some is still to come.
        $told = static fn (int $before): float => (float) DB::table('load_five_minute')->where('cluster_id', $cluster->id)
            ->where('bucket_at', '<', $before)->selectRaw('SUM(bytes_scanned) + SUM(bytes_spilled) AS bytes')->value('bytes');
        [$low, $high] = [$told($to - self::OPEN_SECONDS), $told($to)];
        $kept = 0.0;
        foreach ($this->readings->ofAll($cluster->id, ['disk.read'], $from, $to + self::HOUR, self::HOUR, Span::Day->value) as $its) {
            $kept += $its['disk.read']->last() ?? 0.0;
        }
        $rounding = self::ROUNDING * max(1.0, $high);

        return [[
            'what' => 'bytes read by all nodes, beside those of executions that had ended for sure, and of all that had begun',
            'before' => Quantity::bytes($low), 'kept' => Quantity::bytes($kept), 'after' => Quantity::bytes($high),
            'agrees' => $kept >= $low - $rounding && $kept <= $high + $rounding,
        ]];
    }

    /**
     * @param  array{string, string}  $own page of the cluster
     */
    private static function kept(Cluster $cluster, array $own): SetupStep
    {
        $place = KeptPlace::of($cluster->id);
        $isThere = $place !== null && $place->state->isThere();
        try {
            $complaint = null;
            if ($isThere) {
                Places::connected($place);
            }
        } catch (PlaceError $error) {
            $complaint = $error->getMessage();
        }
        $where = $isThere ? $place->said() : "In Fulcrion's own store";

        return new SetupStep(
            'Where it is kept',
            $complaint === null ? 'calm' : 'act',
            $complaint ?? "{$where}, each reading for {$cluster->retention_days} days"
                .($cluster->isLive() ? ", read every {$cluster->interval_seconds} s" : '').'.',
            page: $own,
            part: 'metrics.place',
        );
    }

    /** @return int|null null where the readings cannot be reached */
    private function hostsRead(Cluster $cluster): ?int
    {
        try {
            return $this->hosts($cluster);
        } catch (PlaceError) {
            return null;
        }
    }

    private function heard(Cluster $cluster): bool
    {
        return DB::table('load_by_origin_hour')->where('cluster_id', $cluster->id)
            ->where('bucket_at', '>=', Clock::seconds() - 24 * self::HOUR)->exists();
    }

    private function hosts(Cluster $cluster): int
    {
        $one = [];
        foreach ($this->series->of($cluster->id) as $series) {
            // What the server itself counts is no host.
            if ($series->host !== $cluster->slug) {
                $one[$series->host] ??= $series;
            }
        }
        $now = Clock::seconds();

        return count(array_filter(
            $this->points->summaries(array_values($one), $now - self::HOUR, $now + 60, Span::Hour),
            static fn (array $some): bool => array_sum(array_map(static fn (Summary $each): int => $each->count, $some)) > 0,
        ));
    }
}
