<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

/**
 * A column that carries a dimension, whose values are restricted by value scopes.
 */
final readonly class Carrier
{
    /**
     * @param  string|null  $column null where the table has rows of the dimension but no column that tells which
     * @param  string  $by column of the hierarchy it is compared with, or ""
     */
    public function __construct(public ?string $column, public string $dimension, public string $by)
    {
    }

    public function key(): string
    {
        return "{$this->dimension} {$this->column} {$this->by}";
    }
}
