<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * EXTRACT(unit FROM x).
 */
final readonly class Extract extends Expression
{
    public function __construct(
        int $at,
        /** In capitals. */
        public string $unit,
        public Expression $value,
    ) {
        parent::__construct($at);
    }
}
