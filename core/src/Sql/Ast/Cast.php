<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * CAST(x AS type) and x::type.
 */
final readonly class Cast extends Expression
{
    public function __construct(int $at, public Expression $value, public TypeName $type)
    {
        parent::__construct($at);
    }
}
