<?php

declare(strict_types=1);

namespace App\Telemetry\Store;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Closure;
use Fulcrion\Core\Sql\Fingerprint;
use Fulcrion\Core\Sql\StatementKind;
use Fulcrion\Core\Statements\FineLoad;
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Statements\LoadAggregate;
use Fulcrion\Core\Statements\LoadAggregator;
use Fulcrion\Core\Statements\SampleShelf;
use Fulcrion\Core\Statements\WindowCover;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\MessageMask;
use Fulcrion\Core\Telemetry\Status;
use Illuminate\Contracts\Encryption\Encrypter;
use Illuminate\Database\QueryException;
use Illuminate\Support\Facades\DB;
use PDO;

/**
 * Writes telemetry: who has been taken already, tallies at five levels, samples and messages, in one transaction.
 */
final class Store
{
    private const IDENTITY_BYTES = 8;

    private const ROWS_A_STATEMENT = 2_000;

    private const KNOWN_LIMIT = 50_000;

    /** Sums that are also kept without statements. */
    private const FLOW = ['executions', 'duration_us', 'load_us', 'lock_us', 'queued_us', 'cpu_us', 'bytes_scanned'];

    /** @var array<string, int> fingerprint => id */
    private array $statementIds = [];

    /** @var array<string, string> fingerprint => kind */
    private array $kinds = [];

    /** @var array<string, int> digest => id */
    private array $originIds = [];

    public function __construct(
        private readonly Encrypter $encrypter,
        private readonly Partitions $partitions,
        private readonly FineLoadStore $fine,
    ) {
    }

    /**
     * @param  (Closure(array{taken: int, repeated: int}): void)|null  $inTransaction runs before the commit,
     *     so that progress and data agree
     * @return array{taken: int, repeated: int}
     */
    public function write(Cluster $cluster, ExecutionBatch $batch, ?Closure $inTransaction = null): array
    {
        $buckets = [];
        foreach ($batch->records as [$execution]) {
            $start = intdiv($execution->startedAtUs, 1_000_000);
            $bucket = $start - ($start % LoadAggregator::BUCKET_SECONDS);
            $buckets[$bucket] = $bucket;
            $end = intdiv($execution->startedAtUs + $execution->durationUs, 1_000_000);
            for ($next = $bucket + LoadAggregator::BUCKET_SECONDS; $next <= $end; $next += LoadAggregator::BUCKET_SECONDS) {
                $buckets[$next] = $next;
            }
        }
        $this->partitions->ensure(array_values($buckets));

        $this->resolve($batch);

        return $this->transaction(function () use ($cluster, $batch, $inTransaction): array {
            $fresh = $this->claim($cluster, $batch);
            $counts = ['taken' => count($fresh), 'repeated' => $batch->size() - count($fresh)];
            if ($fresh !== []) {
                $this->store($cluster, $fresh);
                LoadMemory::forget($cluster->id);
            }
            if ($inTransaction !== null) {
                $inTransaction($counts);
            }

            return $counts;
        });
    }

    /**
     * The same, and where the database refuses what is in it, all records but those it refuses.
     *
     * @param  (Closure(array{taken: int, repeated: int},
     *     list<Execution>): void)|null  $inTransaction gets what was refused beside the counts
     * @return array{array{taken: int, repeated: int}, list<Execution>}
     */
    public function writeSound(Cluster $cluster, ExecutionBatch $batch, ?Closure $inTransaction = null): array
    {
        try {
            return [
                $this->write(
                    $cluster,
                    $batch,
                    $inTransaction === null
                        ? null
                        : static fn (array $counts) => $inTransaction(['taken' => $counts['taken'], 'repeated' => $counts['repeated']], []),
                ),
                [],
            ];
        } catch (QueryException $exception) {
            if (! self::isOfValues($exception)) {
                throw $exception;
            }
        }
        $counts = ['taken' => 0, 'repeated' => 0];
        $refused = [];
        $parts = [$batch];
        while (($part = array_shift($parts)) !== null) {
            try {
                $written = $this->write($cluster, $part);
                $counts = ['taken' => $counts['taken'] + $written['taken'], 'repeated' => $counts['repeated'] + $written['repeated']];
            } catch (QueryException $exception) {
                if (! self::isOfValues($exception)) {
                    throw $exception;
                }
                if ($part->size() <= 1) {
                    array_push($refused, ...array_column($part->records, 0));
                } else {
                    array_unshift($parts, ...$part->halves());
                }
            }
        }
        if ($inTransaction !== null) {
            DB::transaction(static fn () => $inTransaction($counts, $refused));
        }

        return [$counts, $refused];
    }

    /** A number out of range, a text that is no text, a value too long: what is written is to blame, not the moment. */
    private static function isOfValues(QueryException $exception): bool
    {
        return str_starts_with((string) $exception->getCode(), '22') ||
            in_array($exception->errorInfo[1] ?? 0, [1264, 1366, 1406, 1690, 3854], true);
    }

    /**
     * Adds ready tallies, as a live collector makes them from counters.
     *
     * @param  list<array{bucketAt: int, statement: Fingerprint, origin: Origin, tally: LoadAggregate, firstUs: int, lastUs: int}>  $rows
     * @param  Closure(): void  $inTransaction
     * @param  int|null  $sinceAt of the reading before, in Unix seconds; null where there was none
     * @param  int  $nowAt of this reading
     */
    public function addTallies(Cluster $cluster, array $rows, Closure $inTransaction, ?int $sinceAt, int $nowAt): void
    {
        if ($rows !== []) {
            $this->partitions->ensure(array_column($rows, 'bucketAt'));
            $this->resolveStatements(array_column($rows, 'statement'));
            $this->resolveOrigins(array_column($rows, 'origin'));
        }
        $this->transaction(function () use ($cluster, $rows, $inTransaction, $sinceAt, $nowAt): void {
            $buckets = $presence = [];
            foreach ($rows as $row) {
                $statement = $row['statement']->id;
                ($buckets[$row['bucketAt']][$statement][$row['origin']->digest] ??= new LoadAggregate())->merge($row['tally']);
                $presence[$statement] = [
                    min($presence[$statement][0] ?? PHP_INT_MAX, $row['firstUs']),
                    max($presence[$statement][1] ?? 0, $row['lastUs']),
                    ($presence[$statement][2] ?? 0) | $row['tally']->facts,
                ];
            }
            $this->writeLevels($cluster, $buckets);
            if ($sinceAt !== null) {
                $this->fine->add($cluster, $this->finely($rows, $sinceAt, $nowAt));
            }
            $this->writeSightings($cluster, $presence);
            if ($rows !== []) {
                LoadMemory::forget($cluster->id);
            }
            $inTransaction();
        });
    }

    /**
     * @param  list<array{statement: Fingerprint, origin: Origin, tally: LoadAggregate, ...}>  $rows
     * @return array<string, array<string, int>> "bucket,statement,origin" => its sums
     */
    private function finely(array $rows, int $sinceAt, int $nowAt): array
    {
        $fine = [];
        $names = array_flip(FineLoad::SUMS);
        foreach ($rows as $row) {
            $of = "{$this->statementIds[$row['statement']->id]},{$this->originIds[$row['origin']->digest]}";
            foreach (FineLoad::spread(array_intersect_key($row['tally']->sums, $names), $sinceAt, $nowAt) as $at => $sums) {
                foreach ($sums as $name => $sum) {
                    $fine["{$at},{$of}"][$name] = ($fine["{$at},{$of}"][$name] ?? 0) + $sum;
                }
            }
        }

        return $fine;
    }

    /**
     * Adds samples of executions that are counted elsewhere, and what they said.
     *
     * @param  list<array{Execution, Fingerprint, string}>  $records
     */
    public function addSamples(Cluster $cluster, array $records): void
    {
        $this->resolveStatements(array_column($records, 1));
        $messages = $this->messages($records);
        $this->transaction(function () use ($cluster, $records, $messages): void {
            $this->writeMessages($cluster, $messages);
            $this->writeSamples($cluster, $records);
        });
    }

    /**
     * @template T
     * @param  Closure(): T  $work
     * @return T
     */
    private function transaction(Closure $work): mixed
    {
        // Deadlocks, lost certification on a multi-writer cluster and races on the first row of a bucket end in a retry.
        return DB::transaction($work, 8);
    }

    private function resolve(ExecutionBatch $batch): void
    {
        $this->resolveStatements(array_column($batch->records, 1));
        $origins = [];
        foreach ($batch->records as [$execution]) {
            $key = $execution->origin->key();
            $origins[$key] ??= Origin::of($execution);
        }
        $this->resolveOrigins(array_values($origins));
    }

    /**
     * @param  list<Fingerprint>  $statements
     */
    private function resolveStatements(array $statements): void
    {
        if (count($this->statementIds) > self::KNOWN_LIMIT) {
            $this->statementIds = $this->kinds = [];
        }
        $unknown = [];
        foreach ($statements as $statement) {
            if (! isset($this->statementIds[$statement->id])) {
                $unknown[$statement->id] = $statement;
                $this->kinds[$statement->id] = StatementKind::ofNormalised($statement->text)->value;
            }
        }
        foreach (array_chunk($unknown, 500) as $chunk) {
            DB::table('statements')->insertOrIgnore(
                array_map(
                    fn (Fingerprint $statement): array => [
                        'fingerprint' => $statement->id,
                        'kind' => $this->kinds[$statement->id],
                        'text' => mb_scrub($statement->text, 'UTF-8'),
                    ],
                    $chunk,
                ),
            );
            foreach (
                DB::table('statements')
                    ->useWritePdo()
                    ->whereIn('fingerprint', array_map(static fn (Fingerprint $s): string => $s->id, $chunk))
                    ->pluck('id', 'fingerprint') as $fingerprint => $id
            ) {
                $this->statementIds[$fingerprint] = (int) $id;
            }
        }
    }

    /**
     * @param  list<Origin>  $origins
     */
    private function resolveOrigins(array $origins): void
    {
        if (count($this->originIds) > self::KNOWN_LIMIT) {
            $this->originIds = [];
        }
        $unknown = [];
        foreach ($origins as $origin) {
            if (! isset($this->originIds[$origin->digest])) {
                $unknown[$origin->digest] = $origin;
            }
        }
        foreach (array_chunk($unknown, 500) as $chunk) {
            DB::table('origins')->insertOrIgnore(
                array_map(
                    static fn (Origin $origin): array => [
                        'digest' => $origin->digest,
                        'database_name' => $origin->database,
                        'user_name' => $origin->user,
                        'application' => $origin->application,
                        'client_host' => $origin->clientHost,
                        'queue_name' => $origin->queue,
                    ],
                    $chunk,
                ),
            );
            foreach (
                DB::table('origins')
                    ->useWritePdo()
                    ->whereIn('digest', array_map(static fn (Origin $o): string => $o->digest, $chunk))
                    ->pluck('id', 'digest') as $digest => $id
            ) {
                $this->originIds[$digest] = (int) $id;
            }
        }
    }

    /**
     * Locks the buckets the batch touches and returns what they do not hold yet.
     *
     * @return list<array{Execution, Fingerprint, string}>
     */
    private function claim(Cluster $cluster, ExecutionBatch $batch): array
    {
        $byBucket = [];
        foreach ($batch->records as $i => [$execution]) {
            $start = intdiv($execution->startedAtUs, 1_000_000);
            $byBucket[$start - ($start % LoadAggregator::BUCKET_SECONDS)][] = $i;
        }
        ksort($byBucket);
        $fresh = $append = [];
        foreach (array_chunk($byBucket, 500, true) as $chunk) {
            $known = [];
            $rows = DB::select(
                'SELECT bucket_at, identities FROM seen_executions WHERE cluster_id = ? AND bucket_at IN ('.
                    implode(',', array_keys($chunk)).
                    ') ORDER BY bucket_at FOR UPDATE',
                [$cluster->id],
            );
            foreach ($rows as $row) {
                $known[(int) $row->bucket_at] = array_flip(str_split($row->identities, self::IDENTITY_BYTES));
            }
            unset($rows);
            foreach ($chunk as $bucket => $indexes) {
                $new = '';
                foreach ($indexes as $i) {
                    $identity = $batch->records[$i][2];
                    if (! isset($known[$bucket][$identity])) {
                        $new .= $identity;
                        $known[$bucket][$identity] = true;
                        $fresh[$i] = true;
                    }
                }
                if ($new !== '') {
                    $append[] = "({$cluster->id},{$bucket},0x".bin2hex($new).')';
                }
            }
        }
        foreach (array_chunk($append, 2000) as $chunk) {
            $this->execute(
                'INSERT INTO seen_executions (cluster_id, bucket_at, identities) VALUES '.
                    implode(',', $chunk).
                    ' ON DUPLICATE KEY UPDATE identities = CONCAT(identities, VALUES(identities))',
            );
        }

        return count($fresh) === $batch->size() ? $batch->records : array_values(array_intersect_key($batch->records, $fresh));
    }

    /**
     * @param  list<array{Execution, Fingerprint, string}>  $records
     */
    private function store(Cluster $cluster, array $records): void
    {
        $this->writeLevels($cluster, self::fold($records));
        $presence = [];
        foreach ($records as [$execution, $fingerprint]) {
            $start = $execution->startedAtUs;
            if (! isset($presence[$fingerprint->id])) {
                $presence[$fingerprint->id] = [$start, $start, $execution->facts()];
            } else {
                $visibility = &$presence[$fingerprint->id];
                if ($start < $visibility[0]) {
                    $visibility[0] = $start;
                }
                if ($start > $visibility[1]) {
                    $visibility[1] = $start;
                }
                $visibility[2] |= $execution->facts();
                unset($visibility);
            }
        }
        $this->writeSightings($cluster, $presence);
        $this->writeMessages($cluster, $this->messages($records));
        $this->writeSamples($cluster, $records);
    }

    /**
     * @param  list<array{Execution, Fingerprint, string}>  $records
     * @return array<string, array{int, int, string, string, string, int}>
     */
    private function messages(array $records): array
    {
        $messages = [];
        foreach ($records as [$execution, $fingerprint]) {
            if ($execution->outcome->status !== Status::Ok || $execution->outcome->warnings !== []) {
                $this->note($messages, $execution, $this->statementIds[$fingerprint->id]);
            }
        }

        return $messages;
    }

    /**
     * @param  list<array{Execution, Fingerprint, string}>  $records
     * @return array<int, array<string, array<string, LoadAggregate>>>
     */
    private static function fold(array $records): array
    {
        $fold = new LoadAggregator();
        $origins = [];
        foreach ($records as [$execution, $fingerprint]) {
            $key = $execution->origin->key();
            $fold->add($execution, $fingerprint->id, $origins[$key] ??= Origin::of($execution)->digest);
        }

        return $fold->buckets();
    }

    /**
     * @param  array<int, array<string, array<string, LoadAggregate>>>  $fiveMinutes
     */
    private function writeLevels(Cluster $cluster, array $fiveMinutes): void
    {
        $buckets = $fiveMinutes;
        unset($fiveMinutes);
        foreach (array_reverse(WindowCover::LEVELS) as $level => $seconds) {
            // One level is held at a time, however far the records are spread.
            $buckets = $level === 'five_minute' ? $buckets : LoadAggregator::coarsen($buckets, $seconds);
            ksort($buckets);
            $this->upsert($cluster, "load_{$level}", $buckets);
            if ($level === 'five_minute' || $level === 'hour') {
                $this->writeFlow($cluster, "load_by_origin_{$level}", $buckets);
            }
        }
    }

    /**
     * @param  array<int, array<string, array<string, LoadAggregate>>>  $buckets
     */
    private function writeFlow(Cluster $cluster, string $table, array $buckets): void
    {
        $rows = [];
        $clusterId = $cluster->id;
        foreach ($buckets as $at => $statements) {
            $flow = [];
            foreach ($statements as $fingerprint => $origins) {
                foreach ($origins as $origin => $tally) {
                    $key = "{$this->originIds[$origin]},'{$this->kinds[$fingerprint]}'";
                    foreach (self::FLOW as $name) {
                        $flow[$key][$name] = ($flow[$key][$name] ?? 0) + $tally->sums[$name];
                    }
                }
            }
            ksort($flow);
            foreach ($flow as $key => $sums) {
                $rows[] = "({$clusterId},{$at},{$key},".implode(',', $sums).')';
            }
        }
        $updates = implode(', ', array_map(static fn (string $name): string => "{$name} = {$name} + VALUES({$name})", self::FLOW));
        foreach (array_chunk($rows, 1000) as $chunk) {
            $this->execute(
                "INSERT INTO {$table} (cluster_id, bucket_at, origin_id, kind, ".
                    implode(', ', self::FLOW).
                    ') VALUES '.
                    implode(',', $chunk).
                    " ON DUPLICATE KEY UPDATE {$updates}",
            );
        }
    }

    /**
     * @param  array<int, array<string, array<string, LoadAggregate>>>  $buckets in the order of time
     */
    private function upsert(Cluster $cluster, string $table, array $buckets): void
    {
        $rows = [];
        $clusterId = $cluster->id;
        foreach ($buckets as $at => $statements) {
            foreach ($statements as $fingerprint => $origins) {
                foreach ($origins as $origin => $tally) {
                    $rows["{$clusterId},{$at},{$this->statementIds[$fingerprint]},{$this->originIds[$origin]}"] = $tally;
                    if (count($rows) === self::ROWS_A_STATEMENT) {
                        $this->upsertRows($table, $rows);
                        $rows = [];
                    }
                }
            }
        }
        if ($rows !== []) {
            $this->upsertRows($table, $rows);
        }
    }

    /**
     * Sums that are nothing in all of the rows are left out: reading a number takes the database as long as adding it.
     *
     * @param  non-empty-array<string, LoadAggregate>  $rows by their key
     */
    private function upsertRows(string $table, array $rows): void
    {
        $used = [];
        foreach ($rows as $tally) {
            $used += array_filter($tally->sums, static fn (int $sum): bool => $sum !== 0);
        }
        // In the order of the sums, so that names and numbers agree.
        $names = array_values(array_intersect(LoadAggregate::SUMS, array_keys($used)));
        $kept = array_flip($names);
        $values = [];
        foreach ($rows as $key => $tally) {
            $sketch = LatencySketch::encode($tally->bins);
            $sums = array_intersect_key($tally->sums, $kept);
            $values[] =
                "({$key},".
                implode(',', $sums).
                ($sums === [] ? '' : ',').
                "{$tally->minUs},{$tally->maxUs},".
                ($sketch === '' ? "''" : '0x'.bin2hex($sketch)).
                ')';
        }
        $this->execute(
            "INSERT INTO {$table} (cluster_id, bucket_at, statement_id, origin_id, ".
                implode('', array_map(static fn (string $name): string => "{$name}, ", $names)).
                'min_us, max_us, sketch) VALUES '.
                implode(',', $values).
                ' ON DUPLICATE KEY UPDATE '.
                implode('', array_map(static fn (string $name): string => "{$name} = {$name} + VALUES({$name}), ", $names)).
                'min_us = LEAST(min_us, VALUES(min_us)), max_us = GREATEST(max_us, VALUES(max_us)), sketch = CONCAT(sketch, '
                    .'VALUES(sketch))',
        );
    }

    /**
     * @param  array<string, array{int, int, int}>  $presence fingerprint => first, last, facts
     */
    private function writeSightings(Cluster $cluster, array $presence): void
    {
        $rows = [];
        ksort($presence);
        foreach ($presence as $fingerprint => [$first, $last, $facts]) {
            $rows[] = "({$cluster->id},{$this->statementIds[$fingerprint]},{$first},{$last},{$facts})";
        }
        foreach (array_chunk($rows, 2000) as $chunk) {
            $this->execute(
                'INSERT INTO statement_presence (cluster_id, statement_id, first_us, last_us, facts) VALUES '.
                    implode(',', $chunk).
                    ' ON DUPLICATE KEY UPDATE first_us = LEAST(first_us, VALUES(first_us)), last_us = GREATEST(last_us, '
                        .'VALUES(last_us)), facts = facts | VALUES(facts)',
            );
        }
    }

    /**
     * @param  array<string, array{int, int, string, string, string, int}>  $messages
     */
    private function note(array &$messages, Execution $execution, int $statementId): void
    {
        $start = intdiv($execution->startedAtUs, 1_000_000);
        $hour = $start - ($start % 3600);
        $texts = $execution->outcome->warnings;
        $all = array_map(static fn (string $text): array => ['warning', $text], $texts);
        if ($execution->outcome->status !== Status::Ok) {
            $all[] = [$execution->outcome->status->value, $execution->outcome->error ?? '(no text)'];
        }
        foreach ($all as [$severity, $text]) {
            $text = mb_strcut(MessageMask::mask(mb_scrub($text, 'UTF-8')), 0, 480);
            $key = "{$statementId}|{$hour}|{$severity}|{$text}";
            $messages[$key] ??= [$statementId, $hour, $severity, hash('xxh3', $text), $text, 0];
            $messages[$key][5]++;
        }
    }

    /**
     * @param  array<string, array{int, int, string, string, string, int}>  $messages
     */
    private function writeMessages(Cluster $cluster, array $messages): void
    {
        foreach (array_chunk(array_values($messages), 500) as $chunk) {
            $bindings = [];
            foreach ($chunk as $message) {
                array_push($bindings, $cluster->id, ...$message);
            }
            DB::insert(
                'INSERT INTO messages (cluster_id, statement_id, bucket_at, severity, digest, text, occurrences) VALUES '.
                    implode(',', array_fill(0, count($chunk), '(?,?,?,?,?,?,?)')).
                    ' ON DUPLICATE KEY UPDATE occurrences = occurrences + VALUES(occurrences)',
                $bindings,
            );
        }
    }

    /**
     * @param  list<array{Execution, Fingerprint, string}>  $records
     */
    private function writeSamples(Cluster $cluster, array $records): void
    {
        $oldest = Clock::seconds() - $cluster->sample_days * 86_400;
        /** @var array<string, SampleShelf<array<string, mixed>|Execution>> $shelves */
        $shelves = [];
        foreach ($records as [$execution, $fingerprint, $identity]) {
            $start = intdiv($execution->startedAtUs, 1_000_000);
            if ($start < $oldest) {
                continue;
            }
            $key = $this->statementIds[$fingerprint->id].','.($start - ($start % 3600));
            ($shelves[$key] ??= new SampleShelf())->offer($execution->durationUs, bin2hex($identity), $execution);
        }
        foreach (array_chunk($shelves, 400, true) as $chunk) {
            $tuples = implode('),(', array_keys($chunk));
            foreach (
                DB::select(
                    'SELECT statement_id, hour_at, sealed FROM samples WHERE cluster_id = ? AND (statement_id, hour_at) IN '
                        ."(({$tuples})) FOR UPDATE",
                    [$cluster->id],
                ) as $row
            ) {
                foreach (SampleSeal::open($this->encrypter, $row->sealed) as $sample) {
                    $chunk["{$row->statement_id},{$row->hour_at}"]->offer((int) $sample['duration_us'], (string) $sample['lot'], $sample);
                }
            }
            $rows = [];
            foreach ($chunk as $key => $shelf) {
                $kept = $shelf->kept();
                $sealed = SampleSeal::seal($this->encrypter, $kept);
                $rows[] = "({$cluster->id},{$key},{$kept[0]['durationUs']},".count($kept).',0x'.bin2hex($sealed).')';
            }
            $this->execute(
                'INSERT INTO samples (cluster_id, statement_id, hour_at, slowest_us, kept, sealed) VALUES '.
                    implode(',', $rows).
                    ' ON DUPLICATE KEY UPDATE slowest_us = VALUES(slowest_us), kept = VALUES(kept), sealed = VALUES(sealed)',
            );
        }
    }

    /**
     * Statements built of numbers and hexadecimal text only: preparing them would cost more than running them.
     *
     * @throws QueryException
     */
    private function execute(string $sql): void
    {
        $pdo = DB::connection()->getPdo();
        assert($pdo instanceof PDO);
        try {
            $pdo->exec($sql);
        } catch (\PDOException $exception) {
            throw new QueryException((string) DB::connection()->getName(), substr($sql, 0, 200), [], $exception);
        }
    }
}
