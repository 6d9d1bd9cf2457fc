<?php

declare(strict_types=1);

namespace Fulcrion\Core\Catalog;

/**
 * The bounds of one column in one chunk.
 */
final readonly class ZoneMap
{
    public function __construct(
        /** Null when every value is null. */
        public int|float|string|bool|null $min,
        public int|float|string|bool|null $max,
        public int $nullCount,
        public int $rowCount,
        /** Bytes of the column in the chunk's file. */
        public int $bytes,
    ) {
    }
}
