<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A number as it was written; its text decides between whole, decimal and floating.
 */
final readonly class NumberLiteral extends Expression
{
    public function __construct(int $at, public string $text)
    {
        parent::__construct($at);
    }
}
