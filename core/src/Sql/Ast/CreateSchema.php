<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * CREATE SCHEMA.
 */
final readonly class CreateSchema extends Statement
{
    public function __construct(int $at, public string $name, public bool $unlessThere)
    {
        parent::__construct($at);
    }
}
