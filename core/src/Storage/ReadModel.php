<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * What reading a table costs, modelled from its chunks, their bounds and the columns that are read.
 */
final class ReadModel
{
    private ?ChunkIndex $index = null;

    /** @var array<string, int> bytes of one copy of each column */
    private array $columnBytes = [];

    public readonly int $rows;

    public readonly float $skew;

    public function __construct(public readonly TableLayout $table, private readonly ClusterRates $rates)
    {
        $this->rows = $table->rows();
        $this->skew = $table->skew();
        foreach ($table->definition->columns as $i => $column) {
            $this->columnBytes[$column->name] = array_sum(
                array_map(static fn (Chunk $chunk): int => $chunk->zones[$i]->bytes, $table->chunks),
            );
        }
    }

    /**
     * How many nodes share the reading evenly, at best all of them. A copied table is split among them when it is read
     * alone; joins read it whole on every node.
     */
    public static function spread(Distribution $distribution, int $nodes, float $skew, bool $joined): float
    {
        return $distribution->kind === Distribution::COPY ? ($joined ? 1.0 : (float) $nodes) : $nodes / max(1.0, $skew);
    }

    /** Of the table as it lies. */
    public function spreadOf(TableUse $use): float
    {
        return self::spread($this->table->definition->distribution, $this->table->nodes, $this->skew, $use->joins !== []);
    }

    public function index(): ChunkIndex
    {
        return $this->index ??= ChunkIndex::ofLayout($this->table);
    }

    public function share(TableUse $use): float
    {
        return $this->index()->share($use->predicates);
    }

    /** Stored bytes one execution reads when it reads this share of the table. */
    public function bytes(TableUse $use, float $share): float
    {
        return $share * array_sum(array_intersect_key($this->columnBytes, array_flip($use->columns)));
    }

    /** @param  float|null  $spread nodes that share the reading; null for the table as it lies */
    public function us(TableUse $use, float $share, ?float $spread = null): float
    {
        return $this->scanUs($use, $share, $share * count($this->table->chunks)) / ($spread ?? $this->spreadOf($use));
    }

    /**
     * What one node takes that reads a share of all rows out of so many chunks.
     *
     * @param  float  $bytesFactor bytes of a row over those it takes now
     */
    public function scanUs(TableUse $use, float $share, float $chunks, float $bytesFactor = 1.0): float
    {
        return $share * $this->rows * $this->rates->usPerRow +
            $bytesFactor * $this->bytes($use, $share) * $this->rates->usPerByteRead +
            $chunks * $this->rates->usPerChunk;
    }

    /** Writing the whole table anew: read once, written once. */
    public function rewriteUs(int $bytes): float
    {
        return (2 * $bytes * $this->rates->usPerByteRead) /
            self::spread($this->table->definition->distribution, $this->table->nodes, $this->skew, true);
    }
}
