<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A reference to a column.
 */
final readonly class ColumnName extends Expression
{
    /**
     * @param  list<string>  $parts from the outermost qualifier to the column
     */
    public function __construct(int $at, public array $parts)
    {
        parent::__construct($at);
    }
}
