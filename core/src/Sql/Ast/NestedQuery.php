<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A query in brackets, with its own ORDER BY and LIMIT, as part of a set operation.
 */
final readonly class NestedQuery extends QueryBody
{
    public function __construct(int $at, public Query $query)
    {
        parent::__construct($at);
    }
}
