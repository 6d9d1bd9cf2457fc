<?php

declare(strict_types=1);

namespace App\Limits\Application;

use RuntimeException;

/**
 * A limit has no room for another statement: what was reserved of others is given back.
 */
final class LimitReached extends RuntimeException
{
}
