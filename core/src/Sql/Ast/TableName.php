<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A table or view.
 */
final readonly class TableName extends Relation
{
    /**
     * @param  list<string>  $parts from the outermost qualifier to the table
     * @param  list<string>  $columns names given behind the alias
     */
    public function __construct(
        int $at,
        public array $parts,
        public ?string $alias,
        public array $columns,
        /** The moment of FOR SYSTEM_TIME AS OF. */
        public ?Expression $asOf = null,
    ) {
        parent::__construct($at);
    }
}
