<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A query in place of one value.
 */
final readonly class ScalarQuery extends Expression
{
    public function __construct(int $at, public Query $query)
    {
        parent::__construct($at);
    }
}
