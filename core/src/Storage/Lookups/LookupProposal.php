<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Lookups;

use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Storage\TableLayout;

/**
 * A lookup to be made of a dimension.
 */
final readonly class LookupProposal
{
    /**
     * @param  list<string>  $columns the key among them
     * @param  list<string>  $served fingerprints of statements
     */
    public function __construct(
        public TableLayout $table,
        public string $key,
        public array $columns,
        public array $served,
        /** A week. */
        public float $executions,
        /** Statements that filter the dimension, whose filter would be known before the other table is read. */
        public int $filtering,
        /** Modelled time a week. */
        public float $savedUs,
        /** Stored bytes a week. */
        public float $savedBytes,
        /** Stored bytes in the memory of every node. */
        public float $bytes,
    ) {
    }

    /** schema.lookup */
    public function name(): string
    {
        return "{$this->table->name}_by_{$this->key}";
    }

    public function create(): string
    {
        $printer = new Printer();

        return "CREATE OR REPLACE LOOKUP {$this->path()} WITH (key = {$printer->name($this->key)}) AS SELECT ".
            implode(', ', array_map($printer->name(...), $this->columns)).
            " FROM {$this->table->path()}";
    }

    public function drop(): string
    {
        return "DROP LOOKUP IF EXISTS {$this->path()}";
    }

    private function path(): string
    {
        return (new Printer())->path(explode('.', $this->name(), 2));
    }
}
