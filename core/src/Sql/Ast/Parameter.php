<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A place a value is bound to.
 */
final readonly class Parameter extends Expression
{
    public function __construct(int $at, public string $text)
    {
        parent::__construct($at);
    }
}
