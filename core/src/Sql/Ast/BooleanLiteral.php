<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * TRUE or FALSE.
 */
final readonly class BooleanLiteral extends Expression
{
    public function __construct(int $at, public bool $value)
    {
        parent::__construct($at);
    }
}
