<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * VALUES (...), (...).
 */
final readonly class ValuesList extends QueryBody
{
    /**
     * @param  list<list<Expression>>  $rows
     */
    public function __construct(int $at, public array $rows)
    {
        parent::__construct($at);
    }
}
