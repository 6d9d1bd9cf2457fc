<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * x IS DISTINCT FROM y, which knows NULL; <=> is its negation.
 */
final readonly class DistinctTest extends Expression
{
    public function __construct(int $at, public Expression $left, public Expression $right, public bool $negated)
    {
        parent::__construct($at);
    }
}
