<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

use Fulcrion\Practice\Logical\RelationNode;
use Fulcrion\Practice\Logical\Scan;
use Fulcrion\Practice\Physical\ChunkPruner;
use Fulcrion\Practice\Storage\HardwareProfile;

/**
 * What reading the tables of a relation takes, from the bounds of their chunks: no estimate of rows is in it.
 */
final readonly class ReadCost
{
    private function __construct(
        public int $rows,
        public int $bytes,
        /** Modelled, shared evenly by the nodes. */
        public float $us,
    ) {
    }

    public static function of(RelationNode $relation, HardwareProfile $profile, int $nodes): self
    {
        $rows = $bytes = $chunks = 0;
        self::add($relation, $rows, $bytes, $chunks);
        $seconds = $rows / ($profile->cores * $profile->rowsPerSecondPerCore) + $bytes / $profile->diskBytesPerSecond;

        return new self(
            $rows,
            $bytes,
            ($seconds * $profile->rowFactor * 1e6 + ($chunks * $profile->chunkOpenUs) / $profile->cores) / max(1, $nodes),
        );
    }

    private static function add(RelationNode $relation, int &$rows, int &$bytes, int &$chunks): void
    {
        if ($relation instanceof Scan) {
            $numbers = [];
            foreach ($relation->columns as $number => $field) {
                $numbers[$field->id] = $number;
            }
            $pruner = new ChunkPruner($relation->conditions, $numbers);
            foreach ($relation->manifest->chunks as $chunk) {
                if (! $pruner->skips($chunk)) {
                    $chunks++;
                    $rows += $chunk->rows;
                    foreach ($numbers as $number) {
                        $bytes += $chunk->zones[$number]->bytes;
                    }
                }
            }
        }
        foreach ($relation->inputs() as $input) {
            self::add($input, $rows, $bytes, $chunks);
        }
    }
}
