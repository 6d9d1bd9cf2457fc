<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\Encoding;
use Fulcrion\Core\Parquet\Packing;
use Fulcrion\Core\Sql\Ast\LayoutClauses;
use Fulcrion\Core\Sql\Printer;

/**
 * @phpstan-type DefinitionArray array{
 *     columns: list<array{string, string, int, int, bool}>,
 *     distribution: array{string, list<string>},
 *     partitioning: array{string, string|int|null}|null,
 *     clustering: list<string>,
 *     chunkRows: int,
 *     curve?: string,
 *     packing?: array{encodings: array<string, string>, compression: string}
 * }
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
        /** How several clustering columns are taken together; empty for one after the other. */
        public string $curve = '',
        public Packing $packing = new Packing(),
    ) {
    }

    public function laidOut(
        ?Distribution $distribution = null,
        Partitioning|false|null $partitioning = null,
        ?Clustering $clustering = null,
        ?int $chunkRows = null,
    ): self {
        return new self(
            $this->columns,
            $distribution ?? $this->distribution,
            $partitioning === false ? null : $partitioning ?? $this->partitioning,
            $clustering === null ? $this->clustering : $clustering->columns,
            $chunkRows ?? $this->chunkRows,
            $clustering === null ? $this->curve : $clustering->curve,
            $this->packing,
        );
    }

    public function packed(Packing $packing): self
    {
        return new self(
            $this->columns,
            $this->distribution,
            $this->partitioning,
            $this->clustering,
            $this->chunkRows,
            $this->curve,
            $packing,
        );
    }

    public function clustering(): Clustering
    {
        return new Clustering($this->clustering, $this->curve);
    }

    /** The statement that makes an empty table of this layout. */
    public function toSql(string $path): string
    {
        $printer = new Printer();
        $columns = array_map(
            static fn (Column $column): string => '    '.
                $printer->name($column->name).
                ' '.
                $column->type.
                ($column->nullable ? '' : ' NOT NULL'),
            $this->columns,
        );

        return "CREATE TABLE {$path} (\n".implode(",\n", $columns)."\n) ".$printer->layout($this->clauses());
    }

    /** What a statement says to lay a table out like this; encodings and compression only where they are not the usual ones. */
    public function clauses(): LayoutClauses
    {
        return new LayoutClauses(
            0,
            [Distribution::HASH => LayoutClauses::BY, Distribution::COPY => LayoutClauses::EVERYWHERE][$this->distribution->kind] ??
                LayoutClauses::EVENLY,
            $this->distribution->columns,
            $this->partitioning?->column,
            $this->partitioning?->span,
            $this->clustering,
            [Clustering::Z_ORDER => LayoutClauses::Z_CURVE, Clustering::HILBERT => LayoutClauses::CURVE][$this->curve] ?? '',
            $this->chunkRows,
            array_map(static fn (Encoding $encoding): string => $encoding->word(), $this->packing->encodings),
            $this->packing->compression === Packing::USUAL ? null : $this->packing->compression,
        );
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
            'columns' => array_map(
                static fn (Column $column): array => [
                    $column->name,
                    $column->type->kind->value,
                    $column->type->precision,
                    $column->type->scale,
                    $column->nullable,
                ],
                $this->columns,
            ),
            'distribution' => [$this->distribution->kind, $this->distribution->columns],
            'partitioning' => $this->partitioning === null ? null : [$this->partitioning->column, $this->partitioning->span],
            'clustering' => $this->clustering,
            'chunkRows' => $this->chunkRows,
        ] +
            ($this->curve === '' ? [] : ['curve' => $this->curve]) +
            ($this->packing->encodings === [] && $this->packing->compression === Packing::USUAL
                ? []
                : ['packing' => $this->packing->toArray()]);
    }

    /**
     * @param  DefinitionArray  $values
     */
    public static function fromArray(array $values): self
    {
        [$kind, $columns] = $values['distribution'];

        return new self(
            array_map(
                static fn (array $column): Column => new Column(
                    $column[0],
                    new ColumnType(TypeKind::from($column[1]), $column[2], $column[3]),
                    $column[4],
                ),
                $values['columns'],
            ),
            match ($kind) {
                Distribution::HASH => Distribution::hash(...$columns),
                Distribution::COPY => Distribution::copy(),
                default => Distribution::even(),
            },
            $values['partitioning'] === null ? null : new Partitioning(...$values['partitioning']),
            $values['clustering'],
            $values['chunkRows'],
            $values['curve'] ?? '',
            isset($values['packing']) ? Packing::fromArray($values['packing']) : new Packing(),
        );
    }
}
