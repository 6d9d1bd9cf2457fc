<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * CREATE VIEW.
 */
final readonly class CreateView extends Statement
{
    /**
     * @param  list<string>  $name
     * @param  list<string>  $columns
     */
    public function __construct(int $at, public array $name, public array $columns, public Query $query, public bool $orReplace)
    {
        parent::__construct($at);
    }
}
