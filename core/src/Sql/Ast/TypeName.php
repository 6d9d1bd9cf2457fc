<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A type with its arguments: decimal(12, 2).
 */
final readonly class TypeName extends Node
{
    /**
     * @param  list<int>  $arguments
     */
    public function __construct(
        int $at,
        /** In small letters. */
        public string $name,
        public array $arguments,
    ) {
        parent::__construct($at);
    }
}
