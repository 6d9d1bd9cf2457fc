<?php

declare(strict_types=1);

namespace App\Limits\Application;

use RuntimeException;

/**
 * A limit has no room for another statement.
 */
final class LimitReached extends RuntimeException
{
    public function __construct(public readonly KeptLimit $limit)
    {
        parent::__construct();
    }
}
