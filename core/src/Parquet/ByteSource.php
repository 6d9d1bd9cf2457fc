<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

/**
 * Something bytes can be read from at any place: a file, an object, a string.
 */
interface ByteSource
{
    public function size(): int;

    /** Exactly `length` bytes, or fewer where the source ends. */
    public function read(int $offset, int $length): string;
}
