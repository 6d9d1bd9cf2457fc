<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * x > ANY (SELECT ...), x = ALL (SELECT ...).
 */
final readonly class Quantified extends Expression
{
    public function __construct(int $at, public Expression $value, public string $operator, public bool $all, public Query $query)
    {
        parent::__construct($at);
    }
}
