<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * x IN (a, b).
 */
final readonly class InList extends Expression
{
    /**
     * @param  list<Expression>  $items
     */
    public function __construct(int $at, public Expression $value, public array $items, public bool $negated)
    {
        parent::__construct($at);
    }
}
