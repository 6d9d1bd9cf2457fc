<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * x IN (SELECT ...).
 */
final readonly class InQuery extends Expression
{
    public function __construct(int $at, public Expression $value, public Query $query, public bool $negated)
    {
        parent::__construct($at);
    }
}
