<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * CASE.
 */
final readonly class CaseOf extends Expression
{
    /**
     * @param  list<array{Expression, Expression}>  $branches condition or value, result
     */
    public function __construct(int $at, public ?Expression $operand, public array $branches, public ?Expression $otherwise)
    {
        parent::__construct($at);
    }
}
