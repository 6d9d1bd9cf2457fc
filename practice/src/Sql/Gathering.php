<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Sql;

use Fulcrion\Practice\Expression\Aggregate;
use Fulcrion\Practice\Expression\WindowCall;
use Fulcrion\Practice\Logical\Field;

/**
 * The aggregates and window functions met while the expressions of one SELECT are bound.
 *
 * @internal
 */
final class Gathering
{
    /** @var array<string, array{Field, Aggregate}> by key */
    public array $aggregates = [];

    /** @var array<string, array{Field, WindowCall}> by key */
    public array $windows = [];

    public bool $insideAggregate = false;
}
