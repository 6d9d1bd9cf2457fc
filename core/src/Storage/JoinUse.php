<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * An equality between a column of a table and one of another.
 */
final readonly class JoinUse
{
    public function __construct(
        public string $column,
        /** schema.table */
        public string $otherTable,
        public string $otherColumn,
        /** Whether one side is wrapped or cast, or the types differ. */
        public bool $mismatch = false,
    ) {
    }
}
