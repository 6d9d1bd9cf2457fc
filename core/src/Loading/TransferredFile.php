<?php

declare(strict_types=1);

namespace Fulcrion\Core\Loading;

/**
 * A file that was brought from one place to another.
 */
final readonly class TransferredFile
{
    /**
     * @param  int  $bytes at least 0
     * @param  int  $startUs microseconds since any moment that is the same for all files of a transfer
     * @param  int  $endUs not before it began
     */
    public function __construct(public int $bytes, public int $startUs, public int $endUs)
    {
    }
}
