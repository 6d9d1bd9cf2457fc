<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Lineage;

use Fulcrion\Core\Catalog\HelperName;
use Fulcrion\Practice\Storage\TableStore;

/**
 * The tables whose rows flowed into one, as they are kept with it: flat, so that nothing is lost when a table in between
 * is dropped or renamed. What stands under "row" are columns by which a row is known: they hold, unchanged, what stood in
 * the one row of the origin that everything else of the row came from.
 *
 * @phpstan-type Kept array{cluster: string, path: string, columns: array<string, array<string, bool>>, conditions: list<string>,
 *     row: array<string, string>, former: bool}
 */
final readonly class TableOrigins
{
    /**
     * @param  array<string, Kept>  $all by cluster, path and kind
     */
    private function __construct(private array $all)
    {
    }

    public static function none(): self
    {
        return new self([]);
    }

    /**
     * @param  array<array-key, mixed>  $kept as it was written
     */
    public static function read(array $kept): self
    {
        $all = [];
        foreach ($kept as $one) {
            $all[self::key($one)] = $one;
        }

        return new self($all);
    }

    /**
     * @return list<Kept>
     */
    public function list(): array
    {
        return array_values($this->all);
    }

    /**
     * Of a query whose columns go to columns of a table.
     *
     * @param  list<array<string, bool>>  $flows one a column, as of Provenance
     * @param  list<string>  $columns names of the columns they go to
     */
    public static function ofQuery(Provenance $provenance, array $flows, array $columns): self
    {
        $origins = self::none();
        foreach ($provenance->tables as $table => $store) {
            $own = [];
            foreach ($flows as $i => $sources) {
                foreach ($sources as $column => $isCopy) {
                    if (self::tableOf($column) === $table) {
                        $own[$columns[$i]][substr($column, strlen($table) + 1)] = $isCopy;
                    }
                }
            }
            $conditions = [];
            foreach (array_keys($provenance->conditions) as $column) {
                if (self::tableOf($column) === $table) {
                    $conditions[] = substr($column, strlen($table) + 1);
                }
            }
            $row = [];
            foreach (isset($provenance->apart[$table]) ? [] : $own as $name => $sources) {
                if (count($sources) === 1 && reset($sources)) {
                    $row[$name] = (string) key($sources);
                }
            }
            $origins = $origins->through($table, '', $own, $conditions, $row, $store?->origins() ?? self::none());
        }

        return $origins;
    }

    /** Of a copy of a whole table. */
    public static function ofCopy(TableStore $from, string $cluster): self
    {
        return self::none()->through(
            "{$from->schema}.{$from->name}",
            $cluster,
            self::columnsOf($from),
            [],
            self::sameRow($from),
            $from->origins(),
        );
    }

    /** The same table under another name. */
    public function renamed(TableStore $table): self
    {
        return HelperName::is($table->schema, $table->name)
            ? $this
            : $this->with([
                'cluster' => '',
                'path' => "{$table->schema}.{$table->name}",
                'columns' => self::columnsOf($table),
                'conditions' => [],
                'row' => self::sameRow($table),
                'former' => true,
            ]);
    }

    /**
     * After columns of a table got other values: of others of its columns, and with them of whatever those came from.
     *
     * @param  array<string, array<string, bool>>  $columns column => column it got a value of, or that decided on it
     */
    public function within(string $table, array $columns): self
    {
        $all = [];
        foreach ($this->all as $key => $one) {
            // A name the table had before is the table: its rows are known by what stands in them now.
            $all[$key] = ['row' => $one['former'] ? $one['row'] : array_diff_key($one['row'], $columns)] + $one;
        }
        $origins = new self($all);
        $own = array_filter($columns);
        foreach (
            [['cluster' => '', 'path' => $table, 'columns' => $own, 'conditions' => [], 'row' => [], 'former' => false],
                ...$this->list()] as $i => $one
        ) {
            $further = $i === 0 ? $own : self::composed($own, $one['columns']);
            if ($further !== []) {
                $origins = $origins->with(
                    [
                        'columns' => $further,
                        'conditions' => [],
                        'row' => $origins->all[self::key(['former' => false] + $one)]['row'] ?? [],
                        'former' => false,
                    ] + $one,
                );
            }
        }

        return $origins;
    }

    /** After rows of other origins were added. */
    public function and(self $other): self
    {
        return array_reduce(
            $other->list(),
            static function (self $all, array $one): self {
                $there = $all->all[self::key($one)]['row'] ?? null;

                return $all->with(['row' => $there === null ? $one['row'] : array_intersect_assoc($there, $one['row'])] + $one);
            },
            $this,
        );
    }

    public function same(self $other): bool
    {
        return $other->all === $this->all;
    }

    /**
     * @param  array<string, array<string, bool>>  $columns
     * @param  list<string>  $conditions
     * @param  array<string, string>  $row
     */
    private function through(string $table, string $cluster, array $columns, array $conditions, array $row, self $above): self
    {
        [$schema, $name] = explode('.', $table, 2);
        $origins = $this;
        if (! HelperName::is($schema, $name)) {
            $origins = $origins->beside([
                'cluster' => $cluster,
                'path' => $table,
                'columns' => $columns,
                'conditions' => $conditions,
                'row' => $row,
                'former' => false,
            ]);
        }
        foreach ($above->all as $one) {
            $further = self::composed($columns, $one['columns']);
            $deciding = $one['conditions'];
            foreach ($conditions as $condition) {
                array_push($deciding, ...array_map(strval(...), array_keys($one['columns'][$condition] ?? [])));
            }
            $known = array_filter(array_map(static fn (string $between): ?string => $one['row'][$between] ?? null, $row), is_string(...));
            $origins = $origins->beside([
                'cluster' => $one['cluster'] === '' ? $cluster : $one['cluster'],
                'path' => $one['path'],
                'columns' => $further,
                'conditions' => $deciding,
                'row' => $known,
                'former' => false,
            ]);
        }

        return $origins;
    }

    /**
     * @param  array<string, array<string, bool>>  $columns column => columns between
     * @param  array<string, array<string, bool>>  $between column between => columns of an origin
     * @return array<string, array<string, bool>> column => columns of the origin
     */
    private static function composed(array $columns, array $between): array
    {
        $further = [];
        foreach ($columns as $own => $sources) {
            foreach ($sources as $source => $isCopy) {
                foreach ($between[$source] ?? [] as $column => $wasCopy) {
                    $further[$own][$column] = ($further[$own][$column] ?? true) && $isCopy && $wasCopy;
                }
            }
        }

        return $further;
    }

    /**
     * Within one statement: what comes by two ways need not come from one row.
     *
     * @param  Kept  $one
     */
    private function beside(array $one): self
    {
        return $this->with(isset($this->all[self::key($one)]) ? ['row' => []] + $one : $one);
    }

    /**
     * @param  Kept  $one whose row is what holds from now on
     */
    private function with(array $one): self
    {
        $known = $this->all[self::key($one)] ?? ['columns' => [], 'conditions' => []] + $one;
        foreach ($one['columns'] as $column => $sources) {
            foreach ($sources as $source => $isCopy) {
                $known['columns'][$column][$source] = ($known['columns'][$column][$source] ?? true) && $isCopy;
            }
        }
        $known['conditions'] = array_values(array_unique([...$known['conditions'], ...$one['conditions']]));
        $known['row'] = $one['row'];

        $all = $this->all;
        $all[self::key($one)] = $known;

        return new self($all);
    }

    /**
     * @param  array{cluster: string, path: string, former: bool, ...}  $one
     */
    private static function key(array $one): string
    {
        return "{$one['cluster']}|{$one['path']}|".(int) $one['former'];
    }

    /**
     * @return array<string, array<string, bool>>
     */
    private static function columnsOf(TableStore $table): array
    {
        $columns = [];
        foreach ($table->manifest()->definition->columns as $column) {
            $columns[$column->name] = [$column->name => true];
        }

        return $columns;
    }

    /**
     * @return array<string, string>
     */
    private static function sameRow(TableStore $table): array
    {
        $names = array_map(static fn ($column): string => $column->name, $table->manifest()->definition->columns);

        return array_combine($names, $names);
    }

    private static function tableOf(string $column): string
    {
        return substr($column, 0, (int) strrpos($column, '.'));
    }
}
