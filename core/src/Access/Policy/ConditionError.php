<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

use RuntimeException;

/**
 * A condition or filter that cannot be read or evaluated.
 */
final class ConditionError extends RuntimeException
{
}
