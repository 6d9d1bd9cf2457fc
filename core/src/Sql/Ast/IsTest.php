<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * x IS NULL, x IS TRUE, x IS FALSE, each with NOT.
 */
final readonly class IsTest extends Expression
{
    public function __construct(
        int $at,
        public Expression $value,
        /** Null asks for NULL. */
        public ?bool $what,
        public bool $negated,
    ) {
        parent::__construct($at);
    }
}
