<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * One column of a result.
 */
final readonly class SelectItem extends Node
{
    public function __construct(int $at, public Expression $value, public ?string $alias)
    {
        parent::__construct($at);
    }
}
