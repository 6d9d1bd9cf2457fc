<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * NOT x, -x, +x.
 */
final readonly class Unary extends Expression
{
    public function __construct(
        int $at,
        /** In capitals. */
        public string $operator,
        public Expression $operand,
    ) {
        parent::__construct($at);
    }
}
