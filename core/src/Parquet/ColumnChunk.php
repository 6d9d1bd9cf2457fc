<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

use Fulcrion\Core\Catalog\Column;

/**
 * Where one column of one row group lies, and what is said of it.
 *
 * @internal
 */
final readonly class ColumnChunk
{
    public function __construct(
        public Column $column,
        /** Number of the physical type in the format. */
        public int $physical,
        /** Bytes a value, of fixed-length arrays only. */
        public int $typeLength,
        public int $codec,
        public int $valueCount,
        public int $offset,
        public int $size,
        public Statistics $statistics,
        /** What stored times are multiplied by to be microseconds. */
        public int $factor = 1,
        public bool $unsigned = false,
    ) {
    }
}
