<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * One column of CREATE TABLE.
 */
final readonly class ColumnDefinition extends Node
{
    public function __construct(int $at, public string $name, public TypeName $type, public bool $notNull)
    {
        parent::__construct($at);
    }
}
