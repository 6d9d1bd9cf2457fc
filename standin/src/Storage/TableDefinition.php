<?php

declare(strict_types=1);

namespace Fulcrion\StandIn\Storage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;

/**
 * @phpstan-type DefinitionArray array{columns: list<array{string, string, int, int, bool}>, distribution: array{string, list<string>}, partitioning: array{string, string|int|null}|null, clustering: list<string>, chunkRows: int}
 */
final readonly class TableDefinition
{
    public const CHUNK_ROWS = 16_384;

    /**
     * @param  list<Column>  $columns
     * @param  list<string>  $clustering columns rows are sorted by within what is written together
     */
    public function __construct(
        public array $columns,
        public Distribution $distribution,
        public ?Partitioning $partitioning = null,
        public array $clustering = [],
        public int $chunkRows = self::CHUNK_ROWS,
    ) {
    }

    public function column(string $name): ?Column
    {
        foreach ($this->columns as $column) {
            if (strcasecmp($column->name, $name) === 0) {
                return $column;
            }
        }

        return null;
    }

    public function index(string $name): int
    {
        foreach ($this->columns as $i => $column) {
            if ($column->name === $name) {
                return $i;
            }
        }

        return -1;
    }

    /**
     * @return DefinitionArray
     */
    public function toArray(): array
    {
        return [
            'columns' => array_map(static fn (Column $column): array => [$column->name, $column->type->kind->value, $column->type->precision, $column->type->scale, $column->nullable], $this->columns),
            'distribution' => [$this->distribution->kind, $this->distribution->columns],
            'partitioning' => $this->partitioning === null ? null : [$this->partitioning->column, $this->partitioning->span],
            'clustering' => $this->clustering,
            'chunkRows' => $this->chunkRows,
        ];
    }

    /**
     * @param  DefinitionArray  $values
     */
    public static function fromArray(array $values): self
    {
        [$kind, $columns] = $values['distribution'];

        return new self(
            array_map(static fn (array $column): Column => new Column($column[0], new ColumnType(TypeKind::from($column[1]), $column[2], $column[3]), $column[4]), $values['columns']),
            match ($kind) {
                Distribution::HASH => Distribution::hash(...$columns),
                Distribution::COPY => Distribution::copy(),
                default => Distribution::even(),
            },
            $values['partitioning'] === null ? null : new Partitioning(...$values['partitioning']),
            $values['clustering'],
            $values['chunkRows'],
        );
    }
}
