<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A character string, unescaped.
 */
final readonly class TextLiteral extends Expression
{
    public function __construct(int $at, public string $value)
    {
        parent::__construct($at);
    }
}
