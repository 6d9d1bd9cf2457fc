<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Catalog;

/**
 * One row of the table a hierarchy is read from.
 */
final readonly class TreeRow
{
    /** First day it holds; null for always. */
    public ?string $from;

    /** Last day it holds; null for until the next row of the same node, or for ever. */
    public ?string $to;

    /**
     * @param  array<string, string|null>  $values of all columns, by name
     * @param  string|null  $from a day as 2026-11-30, or a moment of it
     * @param  string|null  $to a day, or a moment of it
     */
    public function __construct(
        public string $node,
        public ?string $parent,
        public string $name,
        ?string $from,
        ?string $to,
        public array $values,
    ) {
        // Rows hold for whole days, also where the table keeps moments.
        $this->from = $from === null ? null : substr($from, 0, 10);
        $this->to = $to === null ? null : substr($to, 0, 10);
    }
}
