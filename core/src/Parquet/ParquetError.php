<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

use RuntimeException;

/**
 * A file that cannot be read: either damaged, or made with something this reader does not support.
 */
final class ParquetError extends RuntimeException
{
    private function __construct(string $message, public readonly bool $damaged)
    {
        parent::__construct($message);
    }

    public static function damaged(string $what): self
    {
        return new self("The Parquet file is damaged: {$what}.", true);
    }

    public static function unsupported(string $what): self
    {
        return new self("The Parquet file uses {$what}, which is not supported.", false);
    }
}
