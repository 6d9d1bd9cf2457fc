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
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Statements\LoadAggregate;
use Fulcrion\Core\Statements\LoadAggregator;
use Fulcrion\Core\Telemetry\Fact;
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
        $last = LastReading::of($cluster);
        $grown = [...$last->digests($readings), ...$prepared === null ? [] : $last->prepared($prepared, $nowUs)];
        $rows = $statements = [];
        foreach ($grown as $one) {
            $reading = $one->reading;
            $statement = self::statement($fingerprinter, $reading);
            $rows[] = [
                'bucketAt' => $bucket,
                'statement' => $statement,
                'origin' => new Origin($reading->database),
                'tally' => self::tally($one, $bins[$reading->key] ?? []),
                'firstUs' => $one->isNew ? $reading->bornUs : min($nowUs, $reading->lastUs),
                'lastUs' => min($nowUs, $reading->lastUs),
            ];
            $statements[$reading->key] = $statement;
        }
        $this->store->addTallies($cluster, $rows, function () use ($cluster, $last, $readings, $recent, $grown, $began): void {
            $last->keep();
            $cluster
                ->forceFill([
                    'polled_at' => Clock::now(),
                    'failing_since' => null,
                    'last_error' => null,
                    'last_poll' => [
                        'digests' => count($readings),
                        'executions' => array_sum(array_map(static fn (Grown $one): int => $one->delta['count'], $grown)),
                        'resets' => $last->resets,
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
     * @param  array<int, int>  $bins
     */
    private static function tally(Grown $one, array $bins): LoadAggregate
    {
        $delta = $one->delta;
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
        $tally->minUs = $one->isNew ? $one->reading->minUs : $mean;
        $tally->maxUs = $one->isNew ? $one->reading->maxUs : $mean;
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
