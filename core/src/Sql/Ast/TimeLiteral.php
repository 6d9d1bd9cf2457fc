<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * DATE '...' or TIMESTAMP '...'.
 */
final readonly class TimeLiteral extends Expression
{
    public function __construct(int $at, public bool $withTime, public string $text)
    {
        parent::__construct($at);
    }
}
