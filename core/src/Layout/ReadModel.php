<?php

declare(strict_types=1);

namespace Fulcrion\Core\Layout;

/**
 * What reading a table costs, modelled from its chunks, their bounds and the columns that are read.
 */
final class ReadModel
{
    private ?ChunkIndex $index = null;

    /** @var array<string, int> bytes of one copy of each column */
    private array $columnBytes = [];

    private readonly int $rows;

    /** How many nodes share the work evenly, at best all of them. */
    public readonly float $spread;

    public function __construct(public readonly TableLayout $table, private readonly ClusterRates $rates)
    {
        $this->rows = $table->rows();
        $this->spread = self::spreadOf($table->definition->distribution, $table->nodes, $table->skew());
        foreach ($table->definition->columns as $i => $column) {
            $this->columnBytes[$column->name] = array_sum(array_map(static fn (Chunk $chunk): int => $chunk->zones[$i]->bytes, $table->chunks));
        }
    }

    /** A copied table is read by one node for all. */
    public static function spreadOf(Distribution $distribution, int $nodes, float $skew): float
    {
        return $distribution->kind === Distribution::COPY ? 1.0 : $nodes / max(1.0, $skew);
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

    public function us(TableUse $use, float $share, ?float $spread = null, float $bytesFactor = 1.0): float
    {
        return ($share * $this->rows * $this->rates->usPerRow + $bytesFactor * $this->bytes($use, $share) * $this->rates->usPerByteRead) / ($spread ?? $this->spread);
    }

    /** Writing the whole table anew: read once, written once. */
    public function rewriteUs(int $bytes): float
    {
        return 2 * $bytes * $this->rates->usPerByteRead / max(1.0, $this->spread);
    }
}
