<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * What is made of a table and is used in its place.
 */
final readonly class LayoutUses
{
    /**
     * @param  list<string>  $rewritten fingerprints of statements whose filters are said as ranges before they run
     * @param  list<array{name: string, sql: string, rows: int, bytes: int}>  $rollups
     * @param  list<array{name: string, key: string, columns: list<string>}>  $lookups
     */
    public function __construct(
        public array $rewritten = [],
        public array $rollups = [],
        public array $lookups = [],
    ) {
    }
}
