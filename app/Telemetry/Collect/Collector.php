<?php

declare(strict_types=1);

namespace App\Telemetry\Collect;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\DigestReading;
use App\Estate\Connectors\MariaDbSource;
use App\Estate\Connectors\PreparedReading;
use App\Estate\Connectors\RecentReading;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Store\Origin;
use App\Telemetry\Store\Store;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprint;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Statements\CounterDelta;
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Statements\LoadAggregate;
use Fulcrion\Core\Statements\LoadAggregator;
use Fulcrion\Core\Statements\UntoldGrowth;
use Fulcrion\Core\Telemetry\Fact;
use Illuminate\Support\Facades\DB;
use PDOException;

/**
 * Reads a live server once: growth of its counters becomes tallies, what it remembers singly becomes samples and sketches.
 */
final readonly class Collector
{
    private const FACTS =
        Fact::LOCK |
        Fact::ROWS_RETURNED |
        Fact::ROWS_EXAMINED |
        Fact::ROWS_AFFECTED |
        Fact::TMP_MEMORY |
        Fact::TMP_DISK |
        Fact::SORT_PASSES |
        Fact::FULL_SCAN |
        Fact::INDEX |
        Fact::WARNINGS;

    /** Rows of what was read last that stand for no digest. */
    private const PREPARED = 'prepared';

    private const BALANCE = 'prepared-balance';

    public function __construct(private Clusters $clusters, private Store $store)
    {
    }

    /** Never throws for what the watched server does: its failures are kept with the cluster and shown. */
    public function poll(Cluster $cluster): void
    {
        $source = $this->clusters->as(Actor::system(SystemActor::Collector, 'statements of live servers'))->statements($cluster);
        if ($source === null) {
            return;
        }
        $began = hrtime(true);
        try {
            $readings = $source->digests();
            $prepared = $source->prepared();
            $recent = $source->recent($cluster->last_poll['cursor'] ?? null);
        } catch (PDOException $exception) {
            $cluster
                ->forceFill(['failing_since' => $cluster->failing_since ?? Clock::now(), 'last_error' => MariaDbSource::clean($exception)])
                ->save();

            return;
        }
        $this->take($cluster, $readings, $prepared, $recent, $began);
    }

    /**
     * @param  list<DigestReading>  $readings
     */
    private function take(Cluster $cluster, array $readings, ?PreparedReading $prepared, RecentReading $recent, int $began): void
    {
        $nowUs = Clock::microseconds();
        $now = intdiv($nowUs, 1_000_000);
        $bucket = $now - ($now % LoadAggregator::BUCKET_SECONDS);
        $fingerprinter = new Fingerprinter(Dialect::MariaDb);
        $bins = self::bins($recent);
        $before = [];
        foreach (DB::table('digest_readings')->where('cluster_id', $cluster->id)->get() as $row) {
            $before[$row->digest] = $row;
        }
        $isFirst = $cluster->polled_at === null;
        $knewPrepared = isset($before[self::PREPARED]);
        $openPrepared = array_fill_keys(array_map(static fn (DigestReading $one): string => $one->key, $prepared->open ?? []), true);
        $readings = [...$readings, ...($prepared->open ?? [])];
        $rows = $kept = $statements = $told = [];
        $executions = $resets = 0;
        foreach ($readings as $reading) {
            $old = $before[$reading->key] ?? null;
            $counters = $old === null ? null : json_decode($old->counters, true);
            $born = $old !== null && $old->born !== $reading->born;
            $resets += $born ? 1 : 0;
            $isPrepared = isset($openPrepared[$reading->key]);
            $delta = CounterDelta::of($counters, $reading->counters, $isFirst || ($isPrepared && ! $knewPrepared), $born);
            $kept[] = self::kept($cluster, $reading->key, $reading->counters, $reading->born);
            if ($delta === null) {
                continue;
            }
            foreach ($isPrepared ? $delta : [] as $name => $value) {
                $told[$name] = ($told[$name] ?? 0) + $value;
            }
            $executions += $delta['count'];
            $statement = self::statement($fingerprinter, $reading);
            $rows[] = [
                'bucketAt' => $bucket,
                'statement' => $statement,
                'origin' => new Origin($reading->database),
                'tally' => self::tally($delta, $reading, $old === null || $born, $bins[$reading->key] ?? []),
                'firstUs' => $old === null || $born ? $reading->bornUs : min($nowUs, $reading->lastUs),
                'lastUs' => min($nowUs, $reading->lastUs),
            ];
            $statements[$reading->key] = $statement;
        }
        if ($prepared !== null) {
            $then = static fn (string $key): array => isset($before[$key]) ? json_decode($before[$key]->counters, true) : [];
            $total = $knewPrepared ? CounterDelta::of($then(self::PREPARED), $prepared->total, false, false) : null;
            $untold = UntoldGrowth::of($total ?? [], $told, $then(self::BALANCE));
            $kept[] = self::kept($cluster, self::PREPARED, $prepared->total);
            $kept[] = self::kept($cluster, self::BALANCE, $untold['balance']);
            if ($untold['growth'] !== null) {
                $reading = new DigestReading(self::PREPARED, '', DigestReading::UNTOLD_PREPARED, $prepared->total, 0, 0, '', $nowUs, $nowUs);
                $executions += $untold['growth']['count'];
                $rows[] = [
                    'bucketAt' => $bucket,
                    'statement' => self::statement($fingerprinter, $reading),
                    'origin' => new Origin(''),
                    'tally' => self::tally($untold['growth'], $reading, false, []),
                    'firstUs' => $nowUs,
                    'lastUs' => $nowUs,
                ];
            }
        }
        $this->store->addTallies($cluster, $rows, function () use (
            $cluster,
            $kept,
            $readings,
            $recent,
            $executions,
            $resets,
            $began,
        ): void {
            foreach (array_chunk($kept, 500) as $chunk) {
                DB::table('digest_readings')->upsert($chunk, ['cluster_id', 'digest'], ['counters', 'born']);
            }
            // Rows the server forgot are forgotten here too; should they come back, they count from nothing.
            DB::table('digest_readings')->where('cluster_id', $cluster->id)->whereNotIn('digest', array_column($kept, 'digest'))->delete();
            $cluster
                ->forceFill([
                    'polled_at' => Clock::now(),
                    'failing_since' => null,
                    'last_error' => null,
                    'last_poll' => [
                        'digests' => count($readings),
                        'executions' => $executions,
                        'resets' => $resets,
                        'cursor' => $recent->cursor,
                        'tookMs' => intdiv(hrtime(true) - $began, 1_000_000),
                    ],
                ])
                ->save();
        });
        // The server writes some names in capitals in its digests: samples go where their digest goes.
        $samples = [];
        foreach ($recent->executions as [$key, $execution]) {
            $samples[] = [$execution, $statements[$key] ?? $fingerprinter->of($execution->sql), $execution->identity()];
        }
        if ($samples !== []) {
            $this->store->addSamples($cluster, $samples);
        }
    }

    private static function statement(Fingerprinter $fingerprinter, DigestReading $reading): Fingerprint
    {
        $statement = $fingerprinter->of($reading->text);

        // What stands in place of a text is no SQL, and stays as it is.
        return $reading->isTold() ? $statement : new Fingerprint($statement->id, $reading->text);
    }

    /**
     * @param  array<string, int>  $counters
     * @return array<string, int|string>
     */
    private static function kept(Cluster $cluster, string $key, array $counters, string $born = ''): array
    {
        return ['cluster_id' => $cluster->id, 'digest' => $key, 'counters' => (string) json_encode($counters), 'born' => $born];
    }

    /**
     * @param  array<string, int>  $delta
     * @param  array<int, int>  $bins
     */
    private static function tally(array $delta, DigestReading $reading, bool $extremesAreNew, array $bins): LoadAggregate
    {
        $tally = new LoadAggregate();
        foreach (LoadAggregate::SUMS as $sum) {
            $tally->sums[$sum] = max(0, $delta[$sum] ?? 0);
        }
        $tally->sums['executions'] = $delta['count'];
        $tally->sums['load_us'] = $tally->sums['duration_us'];
        // A scan in several tables of one statement counts several times at the server; a run is one run here.
        $tally->sums['full_scans'] = min($delta['count'], $tally->sums['full_scans']);
        $tally->sums['no_index'] = min($delta['count'], $tally->sums['no_index']);
        $tally->sums['multi_pass'] = min($delta['count'], $tally->sums['sort_passes']);
        // The server's extremes are of all time: within one reading only the mean is certain, unless the row is new.
        $mean = intdiv($tally->sums['duration_us'], max(1, $delta['count']));
        $tally->minUs = $extremesAreNew ? $reading->minUs : $mean;
        $tally->maxUs = $extremesAreNew ? $reading->maxUs : $mean;
        if ($bins !== []) {
            [$low, $high] = LatencySketch::ofCounts($bins)->quantiles([0.0, 1.0]);
            $tally->minUs = min($tally->minUs, $low ?? $tally->minUs);
            $tally->maxUs = max($tally->maxUs, $high ?? 0);
        }
        $tally->facts = self::FACTS | ($bins === [] ? 0 : Fact::DURATIONS);
        $tally->bins = $bins;

        return $tally;
    }

    /**
     * @return array<string, array<int, int>> key of a digest => bins of its single durations
     */
    private static function bins(RecentReading $recent): array
    {
        $bins = [];
        foreach ($recent->executions as [$key, $execution]) {
            $bin = LatencySketch::bin($execution->durationUs);
            $bins[$key][$bin] = ($bins[$key][$bin] ?? 0) + 1;
        }

        return $bins;
    }
}
