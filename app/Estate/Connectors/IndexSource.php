<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Proofs\Measured;
use Fulcrion\Core\Storage\Indexes\IndexedTable;

/**
 * A live server whose indexes can be tried on copies of its tables.
 */
interface IndexSource
{
    /**
     * @return array<string, IndexedTable> by schema.table
     *
     * @throws SourceError
     */
    public function tables(): array;

    /**
     * How often the most frequent values are there, counted in the first rows of a table.
     *
     * @param  list<string>  $columns
     * @return array<string, array<string, float>> column => value => share of the rows
     *
     * @throws SourceError
     */
    public function shares(string $table, array $columns): array;

    /**
     * A copy of a table in a schema for rehearsals, with its indexes.
     *
     * @param  float  $share of the rows
     * @return array{string, int} schema.table, rows
     *
     * @throws SourceError
     */
    public function copy(string $table, string $name, float $share): array;

    public function forget(string $copy): void;

    /** Runs one statement that makes or drops an index. */
    public function apply(string $sql): void;

    /** Runs a read and throws its rows away. */
    public function ask(string $sql): void;

    /**
     * A read with what ANALYZE FORMAT=JSON counts of it.
     *
     * @throws SourceError
     */
    public function measure(string $sql, string $schema): Measured;
}
