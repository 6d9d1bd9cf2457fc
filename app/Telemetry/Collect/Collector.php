<?php

declare(strict_types=1);

namespace App\Telemetry\Collect;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\DigestReading;
use App\Estate\Connectors\MariaDbSource;
use App\Estate\Connectors\OwnStatements;
use App\Estate\Connectors\PreparedReading;
use App\Estate\Connectors\RecentReading;
use App\Estate\Connectors\WatchingCost;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Events\RunsRead;
use App\Telemetry\Events\ServerRead;
use App\Telemetry\Store\ReadingGaps;
use App\Telemetry\Store\Store;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprint;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Statements\LoadAggregator;
use Fulcrion\Core\Telemetry\Execution;
use PDOException;

/**
 * Reads a live server once: growth of its counters becomes tallies, what it remembers singly becomes samples and sketches.
 */
final readonly class Collector
{
    public function __construct(private Clusters $clusters, private Store $store, private ReadingGaps $gaps)
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
        event(new ServerRead($cluster));
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
        $single = self::byKey($recent);
        $last = LastReading::of($cluster);
        $grown = [...$last->digests($readings), ...$prepared === null ? [] : $last->prepared($prepared, $nowUs)];
        $statements = $samples = $candidates = [];
        foreach ($grown as $one) {
            $statement = $statements[$one->reading->key] = self::statement($fingerprinter, $one->reading);
            $candidates += OwnStatements::mayBe($statement, $one->reading->database) ? [$statement->id => $statement] : [];
        }
        // The server writes some names in capitals in its digests: samples go where their digest goes.
        foreach ($recent->executions as [$key, $execution]) {
            $statement = $statements[$key] ?? $fingerprinter->of($execution->sql);
            $samples[] = [$execution, $statement, $execution->identity()];
            $candidates += OwnStatements::mayBe($statement, $execution->origin->database) ? [$statement->id => $statement] : [];
        }
        $watching = OwnStatements::among($candidates);
        $isOwn = static fn (Fingerprint $statement, string $database): bool => isset($watching[$statement->id]) &&
            OwnStatements::mayBe($statement, $database);
        $rows = $own = [];
        foreach ($grown as $one) {
            $reading = $one->reading;
            $statement = $statements[$reading->key];
            if ($isOwn($statement, $reading->database)) {
                $own[] = $one;

                continue;
            }
            foreach (Attribution::of($one, $single[$reading->key] ?? []) as $part) {
                $rows[] = [
                    'bucketAt' => $bucket,
                    'statement' => $statement,
                    'origin' => $part->origin,
                    'tally' => $part->tally,
                    'firstUs' => $one->isNew ? $reading->bornUs : min($nowUs, $reading->lastUs),
                    'lastUs' => min($nowUs, $reading->lastUs),
                ];
            }
        }
        $sinceAt = $cluster->polled_at?->getTimestamp();
        $this->store->addTallies($cluster, $rows, function () use ($cluster, $last, $readings, $recent, $grown, $own, $began): void {
            $last->keep();
            $this->gaps->note($cluster, Clock::seconds());
            $ownUs = self::sum($own, 'duration_us');
            WatchingCost::add($cluster, self::sum($own, 'count'), $ownUs, self::sum($grown, 'duration_us') - $ownUs);
            $cluster
                ->forceFill([
                    'polled_at' => Clock::now(),
                    'failing_since' => null,
                    'last_error' => null,
                    'last_poll' => [
                        'digests' => count($readings),
                        'executions' => self::sum($grown, 'count') - self::sum($own, 'count'),
                        'resets' => $last->resets,
                        'cursor' => $recent->cursor,
                        'tookMs' => intdiv(hrtime(true) - $began, 1_000_000),
                    ],
                ])
                ->save();
        }, $sinceAt, $now);
        $others = array_values(array_filter(
            $samples,
            static fn (array $sample): bool => ! $isOwn($sample[1], $sample[0]->origin->database),
        ));
        if ($others !== []) {
            $this->store->addSamples($cluster, $others);
            event(new RunsRead($cluster, array_map(static fn (array $one): array => [$one[0], $one[1]], $others)));
        }
    }

    /**
     * @param  array<array-key, Grown>  $grown
     */
    private static function sum(array $grown, string $counter): int
    {
        return array_sum(array_map(static fn (Grown $one): int => $one->delta[$counter] ?? 0, $grown));
    }

    private static function statement(Fingerprinter $fingerprinter, DigestReading $reading): Fingerprint
    {
        $statement = $fingerprinter->of($reading->text);

        // What stands in place of a text is no SQL, and stays as it is.
        return $reading->isTold() ? $statement : new Fingerprint($statement->id, $reading->text);
    }

    /**
     * @return array<string, list<Execution>> by key of their digest
     */
    private static function byKey(RecentReading $recent): array
    {
        $single = [];
        foreach ($recent->executions as [$key, $execution]) {
            $single[$key][] = $execution;
        }

        return $single;
    }
}
