<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

final readonly class StringSource implements ByteSource
{
    public function __construct(private string $bytes)
    {
    }

    public function size(): int
    {
        return strlen($this->bytes);
    }

    public function read(int $offset, int $length): string
    {
        return substr($this->bytes, $offset, $length);
    }
}
