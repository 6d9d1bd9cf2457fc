<?php

declare(strict_types=1);

namespace Fulcrion\Core\Capacity;

/**
 * How full a file system was at a moment.
 */
final readonly class StorageReading
{
    /**
     * @param  int  $at Unix second
     */
    public function __construct(public int $at, public float $usedBytes, public float $limitBytes)
    {
    }
}
