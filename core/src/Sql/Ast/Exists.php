<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * EXISTS (SELECT ...).
 */
final readonly class Exists extends Expression
{
    public function __construct(int $at, public Query $query)
    {
        parent::__construct($at);
    }
}
