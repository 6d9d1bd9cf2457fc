<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * x BETWEEN low AND high.
 */
final readonly class Between extends Expression
{
    public function __construct(int $at, public Expression $value, public Expression $low, public Expression $high, public bool $negated)
    {
        parent::__construct($at);
    }
}
