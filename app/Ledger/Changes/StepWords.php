<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

/**
 * What a statement of a change does, for people who wait for it.
 */
final readonly class StepWords
{
    public static function of(string $sql): string
    {
        return match (true) {
            str_starts_with($sql, 'CREATE TABLE') => 'making the new table',
            str_contains(substr($sql, 0, 40), 'ROLLUP') => 'computing a rollup',
            str_contains(substr($sql, 0, 40), 'LOOKUP') => 'making a lookup',
            str_starts_with($sql, 'INSERT INTO') => 'copying the rows',
            str_starts_with($sql, 'ANALYZE') => 'collecting statistics',
            str_starts_with($sql, 'RENAME') => 'comparing the contents, then swapping the names',
            str_starts_with($sql, 'MAINTAIN') => 'rewriting chunks',
            str_starts_with($sql, 'DROP') => 'clearing up',
            default => 'running a statement',
        };
    }
}
