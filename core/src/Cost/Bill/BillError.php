<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost\Bill;

use RuntimeException;

/**
 * A bill that cannot be read; the message names line, column and remedy.
 */
final class BillError extends RuntimeException
{
}
