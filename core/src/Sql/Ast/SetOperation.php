<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * UNION, INTERSECT, EXCEPT.
 */
final readonly class SetOperation extends QueryBody
{
    public function __construct(int $at, public string $operator, public bool $all, public QueryBody $left, public QueryBody $right)
    {
        parent::__construct($at);
    }
}
