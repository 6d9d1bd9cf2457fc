<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * INSERT INTO.
 */
final readonly class Insert extends Statement
{
    /**
     * @param  list<string>  $table
     * @param  list<string>  $columns
     */
    public function __construct(int $at, public array $table, public array $columns, public Query $source)
    {
        parent::__construct($at);
    }
}
