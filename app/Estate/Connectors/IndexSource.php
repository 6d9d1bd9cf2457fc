<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Closure;
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
     * @param  Closure(float): void  $each is told how far it is, again and again, and may end it by throwing
     * @return array{string, int} schema.table, rows
     *
     * @throws SourceError
     */
    public function copy(string $table, string $name, float $share, Closure $each): array;

    public function forget(string $copy): void;

    /** Runs one statement that makes or drops an index. */
    public function apply(string $sql): void;

    /**
     * The same on a table that is in use: others go on reading and writing it, and it is given up where the table is held for long.
     *
     * @throws SourceError
     */
    public function online(string $sql): void;

    /**
     * What the account would have to be allowed.
     *
     * @param  bool  $changes to make an index on the table itself
     * @param  bool  $rehearses to try it on a copy
     * @return list<string> GRANT each
     *
     * @throws SourceError
     */
    public function lacking(string $table, bool $changes = true, bool $rehearses = true): array;

    /**
     * How large a table is, and how long reading some of its rows takes just now.
     *
     * @return array{rows: int, rowBytes: float, readUsPerRow: float} rows as the server estimates them, bytes of one with its indexes
     *
     * @throws SourceError
     */
    public function probe(string $table): array;

    /**
     * @return int rows of a table as the server estimates them
     *
     * @throws SourceError
     */
    public function rows(string $table): int;

    /** Runs a read and throws its rows away. */
    public function ask(string $sql): void;

    /**
     * A read with what ANALYZE FORMAT=JSON counts of it.
     *
     * @throws SourceError
     */
    public function measure(string $sql, string $schema): Measured;
}
