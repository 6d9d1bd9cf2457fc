<?php

declare(strict_types=1);

namespace App\Telemetry\Store;

use Fulcrion\Core\Sql\Fingerprint;
use Fulcrion\Core\Statements\LoadAggregator;
use Fulcrion\Core\Telemetry\Execution;

/**
 * Executions of one cluster on their way into the store, in the order in which they came.
 */
final class ExecutionBatch
{
    /** @var list<array{Execution, Fingerprint, string}> execution, statement, identity */
    public array $records = [];

    private const BYTES = 16_777_216;

    /** Intervals of five minutes that long executions reach over, all together. */
    private const BUCKETS = 20_000;

    /** Statements and intervals they began in, all together: each makes a row of its own. */
    private const PLACES = 9_000;

    private int $bytes = 0;

    private int $buckets = 0;

    /** @var array<string, array<int, true>> statement => intervals */
    private array $places = [];

    private int $placeCount = 0;

    /** @var array<string, int> identity => times seen */
    private array $seen = [];

    public function add(Execution $execution, Fingerprint $statement): void
    {
        $identity = $execution->identity();
        $times = $this->seen[$identity] = ($this->seen[$identity] ?? 0) + 1;
        if ($times > 1) {
            // Truly alike records next to each other are different runs: number them.
            $identity = hash('xxh3', $identity.$times, true);
        }
        $this->records[] = [$execution, $statement, $identity];
        $this->bytes += strlen($execution->sql) + strlen($statement->text);
        $place = &$this->places[$statement->id][intdiv($execution->startedAtUs, LoadAggregator::BUCKET_SECONDS * 1_000_000)];
        $this->placeCount += $place === null ? 1 : 0;
        $place = true;
        unset($place);
        $this->buckets += intdiv($execution->durationUs, LoadAggregator::BUCKET_SECONDS * 1_000_000);
    }

    /** Whether it should be written before more is added: memory is limited by what its records hold and spread over. */
    public function isFull(int $records): bool
    {
        return count($this->records) >= $records ||
            $this->bytes >= self::BYTES ||
            $this->buckets >= self::BUCKETS ||
            $this->placeCount >= self::PLACES;
    }

    /**
     * @return array{self, self} the first and the second half of the records
     */
    public function halves(): array
    {
        [$first, $second] = [new self(), new self()];
        $half = intdiv(count($this->records), 2);
        [$first->records, $second->records] = [array_slice($this->records, 0, $half), array_slice($this->records, $half)];

        return [$first, $second];
    }

    public function size(): int
    {
        return count($this->records);
    }
}
