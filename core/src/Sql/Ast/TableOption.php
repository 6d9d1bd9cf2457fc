<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * One option of WITH (...): a value, a list of names, or a call such as hash(a, b).
 */
final readonly class TableOption extends Node
{
    /**
     * @param  list<Expression>  $values
     */
    public function __construct(
        int $at,
        /** In small letters. */
        public string $name,
        public array $values,
    ) {
        parent::__construct($at);
    }
}
