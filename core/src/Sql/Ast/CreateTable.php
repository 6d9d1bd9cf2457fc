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
     * @param  list<TableOption>  $options
     */
    public function __construct(
        int $at,
        public array $name,
        public array $columns,
        public array $options,
        public ?Query $source,
        public bool $orReplace,
        public bool $unlessThere,
    ) {
        parent::__construct($at);
    }
}
