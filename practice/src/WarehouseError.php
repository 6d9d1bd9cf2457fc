<?php

declare(strict_types=1);

namespace Fulcrion\Practice;

use RuntimeException;

/**
 * A statement the warehouse cannot run: what is wrong, and where in its text when that is known. The message never shows a
 * value of a table; where one is to blame, it stands in the sealed text, which is for those who may see it.
 */
class WarehouseError extends RuntimeException
{
    public function __construct(string $message, public readonly ?int $offset = null, private readonly ?string $full = null)
    {
        parent::__construct($message);
    }

    /**
     * @param  string  $what is wrong, behind the value
     */
    public static function ofValue(string $value, string $what): self
    {
        return new self("A value {$what}", null, '"'.mb_strimwidth($value, 0, 40, '…')."\" {$what}");
    }

    /** With the value that is to blame. */
    public function sealed(): string
    {
        return $this->full ?? $this->getMessage();
    }
}
