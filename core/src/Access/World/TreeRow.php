<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\World;

/**
 * One row of the table a hierarchy is read from.
 */
final readonly class TreeRow
{
    /**
     * @param  array<string, string|null>  $values of all columns, by name
     * @param  string|null  $from first day, as 2026-11-30; null for always
     * @param  string|null  $to last day; null for until the next row of the same node, or for ever
     */
    public function __construct(public string $node, public ?string $parent, public string $name, public ?string $from, public ?string $to, public array $values)
    {
    }
}
