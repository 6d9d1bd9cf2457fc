<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * Arithmetic, comparison, AND, OR and ||.
 */
final readonly class Binary extends Expression
{
    public function __construct(
        int $at,
        /** In capitals; <> for both spellings of "not equal". */
        public string $operator,
        public Expression $left,
        public Expression $right,
    ) {
        parent::__construct($at);
    }
}
