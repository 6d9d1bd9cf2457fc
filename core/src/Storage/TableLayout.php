<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Sql\Printer;

/**
 * How a table lies on disk and over the nodes, without its data.
 */
final readonly class TableLayout
{
    /** A chunk below this share of the target size is small. */
    public const SMALL = 0.25;

    /**
     * @param  string  $name schema.table
     * @param  list<Chunk>  $chunks
     */
    public function __construct(
        public string $name,
        public TableDefinition $definition,
        public int $nodes,
        public array $chunks,
        /** Rows of the modelled cluster each stored row stands for. */
        public int $rowFactor = 1,
        /** Target size of a chunk where it is stated in bytes; otherwise the definition's rows count. */
        public ?int $targetBytes = null,
        public string $engine = 'practice',
        public LayoutStatistics $statistics = new LayoutStatistics(),
        public LayoutHistory $history = new LayoutHistory(),
        public LayoutUses $uses = new LayoutUses(),
    ) {
    }

    /**
     * The same without values of some columns: no bounds of chunks, and partitions by number where they are named by one.
     *
     * @param  list<string>  $columns
     */
    public function withheld(array $columns): self
    {
        if ($columns === []) {
            return $this;
        }
        $numbers = array_fill_keys(array_map($this->definition->index(...), $columns), true);
        $numbered =
            $this->definition->partitioning !== null && in_array($this->definition->partitioning->column, $columns, true)
                ? array_flip(array_map(strval(...), array_keys($this->partitions())))
                : null;
        $chunks = array_map(static function (Chunk $chunk) use ($numbers, $numbered): Chunk {
            $zones = [];
            foreach ($chunk->zones as $i => $zone) {
                $zones[] = isset($numbers[$i]) ? new ZoneMap(null, null, $zone->nullCount, $zone->rowCount, $zone->bytes) : $zone;
            }

            return new Chunk(
                $chunk->file,
                $chunk->node,
                $numbered === null ? $chunk->partition : 'partition '.($numbered[$chunk->partition] + 1),
                $chunk->rows,
                $chunk->bytes,
                $zones,
            );
        }, $this->chunks);

        return new self(
            $this->name,
            $this->definition,
            $this->nodes,
            $chunks,
            $this->rowFactor,
            $this->targetBytes,
            $this->engine,
            $this->statistics,
            $this->history,
            $this->uses,
        );
    }

    /** Its name as SQL. */
    public function path(): string
    {
        return (new Printer())->path(explode('.', $this->name, 2));
    }

    public function rows(): int
    {
        return array_sum(array_map(static fn (Chunk $chunk): int => $chunk->rows, $this->chunks));
    }

    /** Of one copy. */
    public function bytes(): int
    {
        return array_sum(array_map(static fn (Chunk $chunk): int => $chunk->bytes, $this->chunks));
    }

    /** Copies on every node count once a node. */
    public function storedBytes(): int
    {
        return $this->bytes() * ($this->definition->distribution->kind === Distribution::COPY ? $this->nodes : 1);
    }

    /** The size a chunk is measured by: bytes where the target is stated in bytes, rows elsewhere. */
    public function size(Chunk $chunk): int
    {
        return $this->targetBytes === null ? $chunk->rows : $chunk->bytes;
    }

    public function target(): int
    {
        return $this->targetBytes ?? $this->definition->chunkRows;
    }

    public function isSmall(Chunk $chunk): bool
    {
        return $this->size($chunk) < self::SMALL * $this->target();
    }

    public function smallShare(): float
    {
        return $this->chunks === [] ? 0.0 : count(array_filter($this->chunks, $this->isSmall(...))) / count($this->chunks);
    }

    /**
     * @return list<int> rows on each node
     */
    public function rowsByNode(): array
    {
        return $this->byNode(static fn (Chunk $chunk): int => $chunk->rows);
    }

    /**
     * @return list<int>
     */
    public function bytesByNode(): array
    {
        return $this->byNode(static fn (Chunk $chunk): int => $chunk->bytes);
    }

    /** Most rows of a node over the mean of all; 1 is even. */
    public function skew(): float
    {
        return TableOutline::skewOf($this->rowsByNode());
    }

    /**
     * @return array<string, array{rows: int, bytes: int, chunks: int}> by name of partition, in order of names
     */
    public function partitions(): array
    {
        $partitions = [];
        foreach ($this->chunks as $chunk) {
            $partitions[$chunk->partition] ??= ['rows' => 0, 'bytes' => 0, 'chunks' => 0];
            $partitions[$chunk->partition]['rows'] += $chunk->rows;
            $partitions[$chunk->partition]['bytes'] += $chunk->bytes;
            $partitions[$chunk->partition]['chunks']++;
        }
        ksort($partitions, SORT_NATURAL);

        return $partitions;
    }

    /**
     * @param  callable(Chunk): int  $what
     * @return list<int>
     */
    private function byNode(callable $what): array
    {
        $sums = array_fill(0, max(1, $this->nodes), 0);
        foreach ($this->chunks as $chunk) {
            foreach ($chunk->node === Chunk::EVERY_NODE ? array_keys($sums) : [$chunk->node % count($sums)] as $node) {
                $sums[$node] += $what($chunk);
            }
        }

        return array_values($sums);
    }
}
