<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Closure;
use Fulcrion\Core\Proofs\Measured;

/**
 * A cluster whose tables can be changed and tried.
 */
interface TableKeeper
{
    /**
     * Runs a statement for as long as it takes.
     *
     * @param  Closure(): bool  $cancelled asked now and then
     * @return string what happened in words
     *
     * @throws SourceError
     */
    public function apply(string $sql, Closure $cancelled): string;

    /**
     * Runs a query cold and warm and digests all its rows.
     *
     * @param  Closure(): bool  $cancelled
     * @param  ReadAt|null  $at everything as it is now, if not given
     *
     * @throws SourceError
     */
    public function measure(string $sql, string $schema, Closure $cancelled, ?ReadAt $at = null): Measured;

    /**
     * Runs statements that write by turns and several times each, for their times. On copies only: what they write stays.
     *
     * @template K of array-key
     *
     * @param  array<K, string>  $sqls
     * @param  Closure(): bool  $cancelled
     * @return array<K, Measured>
     *
     * @throws SourceError
     */
    public function write(array $sqls, string $schema, Closure $cancelled): array;

    /** What stays of a table when it is renamed. */
    public function identity(string $table): string;

    /**
     * @return array<string, int> identity of every table => its version now
     */
    public function versions(): array;

    /**
     * @param  int  $from a version
     * @return array<int, int> that version and those since => rows ever written or removed until then, oldest first
     *
     * @throws SourceError
     */
    public function writes(string $table, int $from): array;

    /**
     * Runs work while nobody else can write to a table.
     *
     * @template T
     *
     * @param  Closure(): T  $work
     * @return T
     *
     * @throws SourceError
     */
    public function holding(string $table, Closure $work): mixed;

    public function has(string $table): bool;

    /** Version of the table's contents; it grows with every write. */
    public function version(string $table): int;

    /** A digest of the rows, whatever their order and place. */
    public function checksum(string $table): string;

    /**
     * Copies a table of another cluster with its layout, or a share of its chunks.
     *
     * @param  Closure(): bool  $cancelled
     * @return int rows copied
     *
     * @throws SourceError
     */
    public function borrow(self $from, string $table, string $as, float $share, Closure $cancelled): int;

    /** Makes a schema, unless it is there. */
    public function makeSchema(string $schema): void;

    /** Drops a schema with all its tables, if it is there. */
    public function dropSchema(string $schema): void;
}
