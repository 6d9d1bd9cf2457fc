<?php

declare(strict_types=1);

namespace Fulcrion\Core\Catalog;

final readonly class Column
{
    public function __construct(public string $name, public ColumnType $type, public bool $nullable = true)
    {
    }
}
