<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Closure;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Logical\Field;
use Fulcrion\Practice\Logical\Scan;

/**
 * Reads the chunks of a table that may hold wanted rows, and of them the columns that are used.
 */
final class ScanStep extends Step
{
    /** Rows of a batch made of tiny chunks. */
    private const BATCH = 4096;

    private readonly ChunkPruner $pruner;

    /** @var Closure(array<int, list<mixed>>, int, array<int, mixed>, Run): list<int> */
    private readonly Closure $filter;

    /** @var array<int, list<Chunk>>|null by node */
    private ?array $dealt = null;

    /**
     * @var array<int, array{array<int|string, mixed>, int|null, int|null, int}> id => keys a join looks for, least, greatest,
     *     number of the column
     */
    private array $wanted = [];

    public bool $reduced = false;

    /** Set where the step above tests the conditions itself, in the same loop. */
    public bool $bare = false;

    public function __construct(public readonly Scan $scan, bool $skips = true)
    {
        $manifest = $scan->manifest;
        $distribution = $manifest->definition->distribution;
        $ids = [];
        foreach ($scan->columns as $field) {
            $ids[$field->name] = $field->id;
        }
        $keys = array_map(static fn (string $name): ?int => $ids[$name] ?? null, $distribution->columns);
        parent::__construct(
            $scan->fields(),
            [],
            match (true) {
                $distribution->kind === Distribution::COPY => new Placement(Placement::EVERYWHERE),
                $distribution->kind === Distribution::HASH && ! in_array(null, $keys, true) => new Placement(
                    Placement::HASH,
                    array_map(static fn (?int $id): array => [(int) $id], $keys),
                ),
                default => new Placement(Placement::EVEN),
            },
        );
        $numbers = [];
        foreach ($scan->columns as $number => $field) {
            $numbers[$field->id] = $number;
        }
        $this->pruner = new ChunkPruner($skips ? $scan->conditions : [], $numbers);
        $this->filter = Kernel::filter($scan->conditions, $numbers, static fn () => 0);
    }

    public function kind(): string
    {
        return 'scan';
    }

    public function detail(): string
    {
        return "{$this->scan->table->schema}.{$this->scan->table->name}";
    }

    public function pruner(): ChunkPruner
    {
        return $this->pruner;
    }

    /**
     * @return list<Expr>
     */
    public function conditions(): array
    {
        return $this->scan->conditions;
    }

    /**
     * Keys a hash join above has found: other rows need not be read.
     *
     * @param  array<int|string, mixed>  $keys
     */
    public function want(int $id, array $keys): void
    {
        $numbers = array_filter(array_keys($keys), is_int(...));
        $whole = $numbers !== [] && count($numbers) === count($keys);
        $column = (int) array_search($id, array_map(static fn (Field $field): int => $field->id, $this->scan->columns), true);
        $this->wanted[$id] = [$keys, $whole ? min($numbers) : null, $whole ? max($numbers) : null, $column];
    }

    public function reset(): void
    {
        parent::reset();
        $this->wanted = [];
    }

    protected function produce(Run $run, int $node): iterable
    {
        foreach ($this->raw($run, $node) as $batch) {
            $rows = null;
            if ($this->scan->conditions !== [] && ! $this->bare) {
                $rows = ($this->filter)($batch->columns, $batch->rows, $run->outer, $run);
            }
            foreach ($this->wanted as $id => [$keys]) {
                $column = $batch->columns[$id];
                $kept = [];
                foreach ($rows ?? array_keys($column) as $row) {
                    $value = $column[$row];
                    if ((is_int($value) || is_string($value)) && isset($keys[$value])) {
                        $kept[] = $row;
                    }
                }
                $rows = $kept;
            }
            if ($rows === null || count($rows) === $batch->rows) {
                yield $batch;
            } elseif ($rows !== []) {
                yield $batch->take($rows);
            }
        }
    }

    /**
     * @return iterable<Batch> all rows of the chunks that are read
     */
    private function raw(Run $run, int $node): iterable
    {
        $counters = $this->counters($node);
        $table = $this->scan->table;
        $definition = $this->scan->manifest->definition;
        $partitions = [];
        // Tiny chunks are put together, since each batch costs; few at first, in case a LIMIT above wants no more.
        [$rows, $columns, $least] = [0, [], 1];
        foreach ($this->chunks($run, $node) as $chunk) {
            $run->tick();
            $bytes = 0;
            foreach ($this->scan->columns as $number => $_) {
                $bytes += $chunk->zones[$number]->bytes;
            }
            $counters->chunksTotal++;
            $counters->bytesTotal += $bytes;
            $partitions[$chunk->partition] ??= false;
            if ($this->pruner->skips($chunk) || $this->unwanted($chunk)) {
                continue;
            }
            $partitions[$chunk->partition] = true;
            $counters->chunksRead++;
            $counters->bytesRead += $bytes;
            $run->read($bytes);
            $counters->rowsIn += $chunk->rows;
            foreach ($this->scan->columns as $number => $field) {
                $values = $run->cache->column($table->file($chunk), $definition->columns[$number]->name);
                if ($rows === 0) {
                    $columns[$field->id] = $values;
                } else {
                    array_push($columns[$field->id], ...$values);
                }
            }
            $rows += $chunk->rows;
            if ($rows >= $least) {
                yield new Batch($rows, $columns);
                [$rows, $columns, $least] = [0, [], min(self::BATCH, 2 * $least)];
            }
        }
        if ($rows > 0) {
            yield new Batch($rows, $columns);
        }
        $counters->partitionsTotal += count($partitions);
        $counters->partitionsRead += count(array_filter($partitions));
    }

    private function unwanted(Chunk $chunk): bool
    {
        foreach ($this->wanted as [$keys, $least, $greatest, $column]) {
            if ($keys === []) {
                return true;
            }
            $zone = $chunk->zones[$column];
            if (
                $least !== null &&
                $greatest !== null &&
                $zone->min !== null &&
                $zone->max !== null &&
                ! is_string($zone->min) &&
                ($zone->max < $least || $zone->min > $greatest)
            ) {
                return true;
            }
        }

        return false;
    }

    /**
     * What it will read at most: chunks its own conditions do not skip. Keys of a join or a LIMIT above may spare some of them.
     *
     * @return array<int, Counters> by node
     */
    public function expected(int $nodes): array
    {
        $everywhere = $this->placement->kind === Placement::EVERYWHERE;
        $by = [];
        foreach ($this->scan->manifest->chunks as $i => $chunk) {
            if ($this->pruner->skips($chunk)) {
                continue;
            }
            $bytes = 0;
            foreach (array_keys($this->scan->columns) as $number) {
                $bytes += $chunk->zones[$number]->bytes;
            }
            // A copy is read by each node that wants its rows.
            $node = $chunk->node === Chunk::EVERY_NODE ? $i % $nodes : $chunk->node;
            foreach ($everywhere ? range(0, $nodes - 1) : [$node] as $one) {
                $counters = $by[$one] ??= new Counters();
                $counters->chunksRead++;
                $counters->rowsIn += $chunk->rows;
                $counters->bytesRead += $bytes;
            }
        }

        return $by;
    }

    /**
     * @return list<Chunk>
     */
    private function chunks(Run $run, int $node): array
    {
        $chunks = $this->scan->manifest->chunks;
        if ($this->placement->kind === Placement::EVERYWHERE) {
            return $chunks;
        }
        if ($this->dealt === null) {
            $this->dealt = array_fill(0, $run->nodes, []);
            foreach ($chunks as $i => $chunk) {
                $this->dealt[$chunk->node === Chunk::EVERY_NODE ? $i % $run->nodes : $chunk->node][] = $chunk;
            }
        }

        return $this->dealt[$node];
    }
}
