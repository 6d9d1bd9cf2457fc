<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

/**
 * What a file says of one column of one row group.
 */
final readonly class Statistics
{
    public function __construct(
        /** Null when there is no value or none was written; a bound, not always a value that occurs. */
        public int|float|string|bool|null $min,
        public int|float|string|bool|null $max,
        public ?int $nullCount,
    ) {
    }
}
