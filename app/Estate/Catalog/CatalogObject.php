<?php

declare(strict_types=1);

namespace App\Estate\Catalog;

use Fulcrion\Core\Access\Catalog\ColumnOrigin;
use Fulcrion\Core\Catalog\Column;

/**
 * A table or view as a cluster's catalog tells it.
 */
final readonly class CatalogObject
{
    /**
     * @param  list<array{string, string, bool}>  $columns name, type, whether it can be null
     * @param  array<string, string>  $facts further facts by name, in words
     */
    public function __construct(
        public string $schema,
        public string $name,
        public bool $isView,
        public ?int $rows,
        public ?int $bytes,
        public array $columns,
        public array $facts = [],
        /** Text of the CREATE VIEW of a view. */
        public ?string $definition = null,
        /** @var list<ColumnOrigin> tables its rows came from */
        public array $origins = [],
        /** @var list<string> columns that tell its rows apart */
        public array $keys = [],
        /** How many rows of the modelled cluster each stored row stands for; the bytes are of that cluster. */
        public int $scale = 1,
    ) {
    }

    /**
     * @param  list<Column>  $columns
     * @return list<array{string, string, bool}>
     */
    public static function columns(array $columns): array
    {
        return array_map(static fn (Column $column): array => [$column->name, (string) $column->type, $column->nullable], $columns);
    }
}
