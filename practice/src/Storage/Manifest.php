<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\TableLayout;

/**
 * One version of a table: its definition and the chunks it consists of.
 */
final readonly class Manifest
{
    /**
     * @param  list<Chunk>  $chunks
     */
    public function __construct(
        public int $version,
        public int $writtenUs,
        public TableDefinition $definition,
        public array $chunks,
        /** Rows inserted, changed and deleted since the table began. */
        public int $rowsChanged,
    ) {
    }

    public function rows(): int
    {
        return array_sum(array_map(static fn (Chunk $chunk): int => $chunk->rows, $this->chunks));
    }

    /** Bytes of all files; copies on every node count once a node. */
    public function bytes(int $nodes): int
    {
        return array_sum(
            array_map(static fn (Chunk $chunk): int => $chunk->bytes * ($chunk->node === Chunk::EVERY_NODE ? $nodes : 1), $this->chunks),
        );
    }

    public function hasNulls(int $column): bool
    {
        foreach ($this->chunks as $chunk) {
            if ($chunk->zones[$column]->nullCount > 0) {
                return true;
            }
        }

        return false;
    }

    /**
     * @return list<int> rows of each node
     */
    public function rowsByNode(int $nodes): array
    {
        $rows = array_fill(0, $nodes, 0);
        foreach ($this->chunks as $chunk) {
            foreach ($chunk->node === Chunk::EVERY_NODE ? range(0, $nodes - 1) : [$chunk->node] as $node) {
                $rows[$node] += $chunk->rows;
            }
        }

        return array_values($rows);
    }

    public function partitionCount(): int
    {
        return count(array_unique(array_map(static fn (Chunk $chunk): string => $chunk->partition, $this->chunks)));
    }

    public function smallChunks(): int
    {
        $limit = TableLayout::SMALL * $this->definition->chunkRows;

        return count(array_filter($this->chunks, static fn (Chunk $chunk): bool => $chunk->rows < $limit));
    }

    public function toJson(): string
    {
        $chunks = [];
        foreach ($this->chunks as $chunk) {
            $zones = [];
            foreach ($chunk->zones as $zone) {
                $known = self::isText($zone->min) && self::isText($zone->max);
                $zones[] = [$known ? $zone->min : null, $known ? $zone->max : null, $zone->nullCount, $zone->bytes];
            }
            $chunks[] = [$chunk->file, $chunk->node, $chunk->partition, $chunk->rows, $chunk->bytes, $zones];
        }

        return json_encode(
            ['version' => $this->version, 'writtenUs' => $this->writtenUs, 'rowsChanged' => $this->rowsChanged] +
                $this->definition->toArray() + ['chunks' => $chunks],
            JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE,
        );
    }

    public static function fromJson(string $json): self
    {
        $values = json_decode($json, true, 16, JSON_THROW_ON_ERROR);
        $chunks = [];
        foreach ($values['chunks'] as [$file, $node, $partition, $rows, $bytes, $zoneList]) {
            $zones = [];
            foreach ($zoneList as [$min, $max, $nulls, $columnBytes]) {
                $zones[] = new ZoneMap($min, $max, $nulls, $rows, $columnBytes);
            }
            $chunks[] = new Chunk($file, $node, $partition, $rows, $bytes, $zones);
        }

        return new self($values['version'], $values['writtenUs'], TableDefinition::fromArray($values), $chunks, $values['rowsChanged']);
    }

    /** Bounds that JSON cannot hold are left out, which only means that nothing is skipped by them. */
    private static function isText(mixed $value): bool
    {
        return ! is_string($value) || preg_match('//u', $value) === 1;
    }
}
