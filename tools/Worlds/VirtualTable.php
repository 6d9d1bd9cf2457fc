<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Worlds;

/**
 * A table as one person sees it, cell by cell: columns and rows that are not to be seen are not there, masked values
 * stand as they are shown.
 */
final readonly class VirtualTable
{
    /**
     * @param  list<string>  $columns that are there
     * @param  list<string>  $hidden columns that * passes over; others that are missing refuse it
     * @param  list<array<string, int|string|null>>  $rows
     * @param  bool  $closed whether nothing of it may be read
     * @param  array<string, array{list<string>|null, list<string>|null, string, bool}>  $scoped column => values allowed in detail,
     *     in totals (null for all), refuse or trim, whether totals show more
     * @param  list<array<string, int|string|null>>  $whole rows with the scoped ones, which totals may add up
     */
    public function __construct(
        public array $columns,
        public array $hidden,
        public array $rows,
        public bool $closed,
        public array $scoped,
        public array $whole,
    ) {
    }
}
