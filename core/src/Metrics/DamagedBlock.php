<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics;

use RuntimeException;

/**
 * Bytes that are no block of points, or not all of one.
 */
final class DamagedBlock extends RuntimeException
{
}
