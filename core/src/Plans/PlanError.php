<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

use RuntimeException;

/**
 * A plan that cannot be read, and why.
 */
final class PlanError extends RuntimeException
{
}
