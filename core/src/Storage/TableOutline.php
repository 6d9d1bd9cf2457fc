<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * What a list of tables tells of one: counts of its chunks, and no value of any.
 */
final readonly class TableOutline
{
    /**
     * @param  string  $name schema.table
     * @param  int  $storedBytes copies on every node counted once a node
     * @param  list<int>  $rowsByNode
     */
    public function __construct(
        public string $name,
        public TableDefinition $definition,
        public int $rows,
        public int $storedBytes,
        public int $chunks,
        public int $smallChunks,
        public int $partitions,
        public array $rowsByNode,
        /** Rows of the modelled cluster each stored row stands for. */
        public int $rowFactor = 1,
    ) {
    }

    public function smallShare(): float
    {
        return $this->chunks === 0 ? 0.0 : $this->smallChunks / $this->chunks;
    }

    /** Most rows of a node over the mean of all; 1 is even. */
    public function skew(): float
    {
        return self::skewOf($this->rowsByNode);
    }

    /**
     * @param  list<int>  $rowsByNode
     */
    public static function skewOf(array $rowsByNode): float
    {
        $sum = array_sum($rowsByNode);

        return $sum === 0 ? 1.0 : max([0, ...$rowsByNode]) / ($sum / count($rowsByNode));
    }
}
