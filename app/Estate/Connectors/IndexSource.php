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
     * How many values columns have, estimated of a sample.
     *
     * @param  list<string>  $columns
     * @return array<string, float>
     *
     * @throws SourceError
     */
    public function distinct(string $table, array $columns): array;

    /**
     * How often the most frequent values are there, counted in a sample of the rows.
     *
     * @param  list<string>  $columns
     * @return array<string, array<string, float>> column => value => share of the rows
     *
     * @throws SourceError
     */
    public function shares(string $table, array $columns): array;

    /**
     * How many rows conditions keep, counted in a sample of the rows.
     *
     * @param  string  $alias what their columns are named by
     * @param  array<string, string>  $conditions SQL
     * @return array<string, float> share by the same keys
     *
     * @throws SourceError
     */
    public function keeping(string $table, string $alias, array $conditions): array;

    /** Since when the server counts what it reads by an index; null where it does not. */
    public function countedSeconds(): ?int;

    /** The account it is looked at with, as a GRANT names it. */
    public function account(): string;

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
