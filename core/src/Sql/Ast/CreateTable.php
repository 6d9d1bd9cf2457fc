<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * CREATE TABLE, with columns or from a query.
 */
final readonly class CreateTable extends Statement
{
    /**
     * @param  list<string>  $name
     * @param  list<ColumnDefinition>  $columns
     */
    public function __construct(
        int $at,
        public array $name,
        public array $columns,
        public ?LayoutClauses $layout,
        public ?Query $source,
        public bool $orReplace,
        public bool $unlessThere,
    ) {
        parent::__construct($at);
    }
}
