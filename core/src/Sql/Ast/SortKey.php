<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * One key of ORDER BY.
 */
final readonly class SortKey extends Node
{
    public function __construct(
        int $at,
        public Expression $value,
        public bool $descending,
        /** Null when not said. */
        public ?bool $nullsFirst,
    ) {
        parent::__construct($at);
    }
}
