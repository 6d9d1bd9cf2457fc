<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * One named query of WITH.
 */
final readonly class CommonTable extends Node
{
    /**
     * @param  list<string>  $columns
     */
    public function __construct(int $at, public string $name, public array $columns, public Query $query)
    {
        parent::__construct($at);
    }
}
