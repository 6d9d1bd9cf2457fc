<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * (a, b).
 */
final readonly class Tuple extends Expression
{
    /**
     * @param  list<Expression>  $items
     */
    public function __construct(int $at, public array $items)
    {
        parent::__construct($at);
    }
}
