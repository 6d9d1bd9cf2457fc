<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\Distribution;

/**
 * Gathers rows, deals them to nodes and partitions, and writes chunks. Nothing can be seen before commit().
 */
final class TableWriter
{
    /** Rows of one node and partition that are sorted together when the table has a clustering key. */
    private const SORT_ROWS = 200_000;

    /** Rows of a batch that stays on one node. */
    private const SMALL_BATCH = 2048;

    /** @var array<string, list<list<int|float|string|bool|null>>> "node|partition" => one list a column */
    private array $buffers = [];

    /** @var list<Chunk> */
    private array $chunks = [];

    private int $next = 0;

    /** @var array<int, int> rows each node has, of EVEN only */
    private array $dealt;

    private int $rows = 0;

    /** @var list<int> */
    private readonly array $keys;

    private readonly int $partitionColumn;

    public function __construct(private readonly TableStore $table, private readonly Manifest $base, private readonly int $nodes)
    {
        $definition = $base->definition;
        $this->keys = array_map($definition->index(...), $definition->distribution->columns);
        $dealt = array_fill(0, max(1, $nodes), 0);
        // Where the last load left off: loads that each begin at node 1 would leave everything there.
        foreach ($definition->distribution->kind === Distribution::EVEN ? $base->chunks : [] as $chunk) {
            $dealt[$chunk->node] = ($dealt[$chunk->node] ?? 0) + $chunk->rows;
        }
        $this->dealt = $dealt;
        $this->partitionColumn = $definition->partitioning === null ? -1 : $definition->index($definition->partitioning->column);
    }

    /**
     * @return list<Chunk> written so far
     */
    public function chunks(): array
    {
        return $this->chunks;
    }

    public function rowCount(): int
    {
        return $this->rows;
    }

    /**
     * @param  list<list<int|float|string|bool|null>>  $values one list a column of the table
     */
    public function add(array $values): void
    {
        $count = count($values[0] ?? []);
        if ($count === 0) {
            return;
        }
        $this->rows += $count;
        $definition = $this->base->definition;
        $nodes = $this->homes($values, $count);
        $partitions = null;
        if ($definition->partitioning !== null) {
            $partitions = [];
            $type = $definition->columns[$this->partitionColumn]->type;
            // Moments of one day are in one partition, so that few names have to be found.
            $grain = $type->kind === TypeKind::Timestamp && is_string($definition->partitioning->span) ? 86_400_000_000 : 1;
            $names = [];
            foreach ($values[$this->partitionColumn] as $value) {
                $key = is_int($value)
                    ? $value - ($value % $grain)
                    : (is_string($value)
                        ? $value
                        : ($value === null
                            ? "\0"
                            : (string) $value));
                $partitions[] = $names[$key] ??= $definition->partitioning->name($value, $type);
            }
        }
        $full = [];
        for ($i = 0; $i < $count; $i++) {
            $full[$nodes[$i].'|'.($partitions === null ? '' : $partitions[$i])][] = $i;
        }
        foreach ($full as $key => $rows) {
            $buffer = $this->buffers[$key] ?? array_fill(0, count($definition->columns), []);
            unset($this->buffers[$key]);
            foreach ($values as $column => $list) {
                $target = $buffer[$column];
                $buffer[$column] = [];
                foreach ($rows as $row) {
                    $target[] = $list[$row];
                }
                $buffer[$column] = $target;
            }
            $this->buffers[$key] = array_values($buffer);
        }
        $most = $definition->clustering === [] ? $definition->chunkRows : max($definition->chunkRows, self::SORT_ROWS);
        foreach ($full as $key => $_) {
            if (count($this->buffers[$key][0]) >= $most) {
                $this->flush($key, false);
            }
        }
    }

    /** Writes what is gathered, full chunk or not: what a load in small batches leaves behind. */
    public function cut(): void
    {
        foreach (array_keys($this->buffers) as $key) {
            $this->flush($key, true);
        }
    }

    /**
     * Makes the table consist of its chunks so far and the new ones.
     *
     * @param  list<Chunk>|null  $kept chunks that stay; null for all
     */
    public function commit(int $nowUs, ?array $kept = null, int $rowsRemoved = 0): Manifest
    {
        $this->cut();
        $manifest = new Manifest(
            $this->base->version + 1,
            $nowUs,
            $this->base->definition,
            [...$kept ?? $this->base->chunks, ...$this->chunks],
            $this->base->rowsChanged + $this->rows + $rowsRemoved,
        );
        $this->table->publish($manifest);

        return $manifest;
    }

    /**
     * @param  list<list<int|float|string|bool|null>>  $values
     * @return list<int>
     */
    private function homes(array $values, int $count): array
    {
        $kind = $this->base->definition->distribution->kind;
        if ($kind === Distribution::COPY) {
            return array_fill(0, $count, Chunk::EVERY_NODE);
        }
        $homes = [];
        if ($kind === Distribution::EVEN) {
            // Small batches go whole to the node with the fewest rows, as a loader deals files; large ones are cut into
            // one piece a node.
            if ($count < self::SMALL_BATCH) {
                $node = (int) array_search(min([PHP_INT_MAX, ...$this->dealt]), $this->dealt, true);
                $this->dealt[$node] += $count;

                return array_fill(0, $count, $node);
            }
            $step = intdiv($count, $this->nodes);
            for ($i = 0; $i < $count; $i++) {
                $homes[] = min($this->nodes - 1, intdiv($i, max(1, $step)));
            }
            foreach (array_count_values($homes) as $node => $rows) {
                $this->dealt[$node] += $rows;
            }

            return $homes;
        }
        $known = [];
        for ($i = 0; $i < $count; $i++) {
            $key = [];
            foreach ($this->keys as $column) {
                $key[] = $values[$column][$i];
            }
            $text =
                count($key) === 1 && is_string($key[0])
                    ? $key[0]
                    : (count($key) === 1 && is_int($key[0]) && abs($key[0]) < 1 << 40
                        ? $key[0]
                        : 'k'.json_encode($key));
            $homes[] = $known[$text] ??= Distribution::node($key, $this->nodes);
        }

        return $homes;
    }

    private function flush(string $key, bool $rest): void
    {
        $definition = $this->base->definition;
        $columns = $this->buffers[$key];
        $count = count($columns[0]);
        if ($definition->clustering !== []) {
            $columns = $this->sorted($columns);
        }
        [$node, $partition] = explode('|', $key, 2);
        $at = 0;
        for (; $at < $count && ($rest || $count - $at >= $definition->chunkRows); $at += $definition->chunkRows) {
            $part =
                $at === 0 && $count <= $definition->chunkRows
                    ? $columns
                    : array_map(static fn (array $list): array => array_slice($list, $at, $definition->chunkRows), $columns);
            $this->chunks[] = $this->table->writeChunk(
                $definition,
                $this->base->version + 1,
                $this->next++,
                (int) $node,
                $partition,
                $part,
            );
        }
        if ($at < $count) {
            $this->buffers[$key] = array_map(static fn (array $list): array => array_slice($list, $at), $columns);
        } else {
            unset($this->buffers[$key]);
        }
    }

    /**
     * @param  list<list<int|float|string|bool|null>>  $columns
     * @return list<list<int|float|string|bool|null>>
     */
    private function sorted(array $columns): array
    {
        $definition = $this->base->definition;
        $keys = array_map(static fn (string $name): array => $columns[$definition->index($name)], $definition->clustering);
        if (count($keys) === 1 && ! is_string($keys[0][0])) {
            // Loads mostly come in order already.
            $before = null;
            foreach ($keys[0] as $value) {
                if ($value < $before) {
                    $before = false;
                    break;
                }
                $before = $value;
            }
            if ($before !== false) {
                return $columns;
            }
        }
        $order = $definition->clustering()->order($keys);

        return array_map(static fn (array $list): array => array_map(static fn (int $i) => $list[$i], $order), $columns);
    }
}
