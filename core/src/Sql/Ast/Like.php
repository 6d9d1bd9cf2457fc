<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * x LIKE pattern.
 */
final readonly class Like extends Expression
{
    public function __construct(
        int $at,
        public Expression $value,
        public Expression $pattern,
        public ?Expression $escape,
        public bool $negated,
        public bool $anyCase,
    ) {
        parent::__construct($at);
    }
}
