<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A query behind FROM.
 */
final readonly class DerivedTable extends Relation
{
    /**
     * @param  list<string>  $columns
     */
    public function __construct(int $at, public Query $query, public string $alias, public array $columns, public bool $lateral)
    {
        parent::__construct($at);
    }
}
