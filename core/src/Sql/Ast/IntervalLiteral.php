<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * INTERVAL '3' DAY or INTERVAL '3 days'.
 */
final readonly class IntervalLiteral extends Expression
{
    public function __construct(
        int $at,
        public Expression $amount,
        /** In capitals, singular. */
        public string $unit,
    ) {
        parent::__construct($at);
    }
}
