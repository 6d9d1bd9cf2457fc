<?php

declare(strict_types=1);

namespace Fulcrion\StandIn\Lineage;

use Fulcrion\Core\Catalog\HelperName;
use Fulcrion\StandIn\Storage\TableStore;

/**
 * The tables whose rows flowed into one, as they are kept with it: flat, so that nothing is lost when a table in between
 * is dropped or renamed.
 *
 * @phpstan-type Kept array{cluster: string, path: string, columns: array<string, array<string, bool>>, conditions: list<string>, former: bool}
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
     * @param  list<Kept>  $kept
     */
    public static function read(array $kept): self
    {
        return array_reduce($kept, static fn (self $all, array $one): self => $all->with($one), self::none());
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
            $origins = $origins->through($table, '', $own, $conditions, $store?->origins() ?? self::none());
        }

        return $origins;
    }

    /** Of a copy of a whole table. */
    public static function ofCopy(TableStore $from, string $cluster): self
    {
        return self::none()->through("{$from->schema}.{$from->name}", $cluster, self::same($from), [], $from->origins());
    }

    /** The same table under another name. */
    public function renamed(TableStore $table): self
    {
        return HelperName::is($table->schema, $table->name) ? $this
            : $this->with(['cluster' => '', 'path' => "{$table->schema}.{$table->name}", 'columns' => self::same($table), 'conditions' => [], 'former' => true]);
    }

    /**
     * Columns of a table that got values from others of its columns.
     *
     * @param  array<string, array<string, bool>>  $columns column => column it got a value of, or that decided on it
     */
    public function within(string $table, array $columns): self
    {
        return $this->with(['cluster' => '', 'path' => $table, 'columns' => $columns, 'conditions' => [], 'former' => false]);
    }

    public function and(self $other): self
    {
        return array_reduce($other->list(), static fn (self $all, array $one): self => $all->with($one), $this);
    }

    public function isWithin(self $other): bool
    {
        return $other->and($this)->all === $other->all;
    }

    /**
     * @param  array<string, array<string, bool>>  $columns
     * @param  list<string>  $conditions
     */
    private function through(string $table, string $cluster, array $columns, array $conditions, self $above): self
    {
        [$schema, $name] = explode('.', $table, 2);
        $origins = $this;
        if (! HelperName::is($schema, $name)) {
            $origins = $origins->with(['cluster' => $cluster, 'path' => $table, 'columns' => $columns, 'conditions' => $conditions, 'former' => false]);
        }
        foreach ($above->all as $one) {
            $further = [];
            foreach ($columns as $own => $sources) {
                foreach ($sources as $source => $isCopy) {
                    foreach ($one['columns'][$source] ?? [] as $column => $wasCopy) {
                        $further[$own][$column] = ($further[$own][$column] ?? true) && $isCopy && $wasCopy;
                    }
                }
            }
            $deciding = $one['conditions'];
            foreach ($conditions as $condition) {
                array_push($deciding, ...array_map(strval(...), array_keys($one['columns'][$condition] ?? [])));
            }
            $origins = $origins->with(['cluster' => $one['cluster'] === '' ? $cluster : $one['cluster'], 'path' => $one['path'], 'columns' => $further, 'conditions' => $deciding, 'former' => false]);
        }

        return $origins;
    }

    /**
     * @param  Kept  $one
     */
    private function with(array $one): self
    {
        $key = "{$one['cluster']}|{$one['path']}|".(int) $one['former'];
        $all = $this->all;
        $known = $all[$key] ?? ['columns' => [], 'conditions' => []] + $one;
        foreach ($one['columns'] as $column => $sources) {
            foreach ($sources as $source => $isCopy) {
                $known['columns'][$column][$source] = ($known['columns'][$column][$source] ?? true) && $isCopy;
            }
        }
        $known['conditions'] = array_values(array_unique([...$known['conditions'], ...$one['conditions']]));
        $all[$key] = $known;

        return new self($all);
    }

    /**
     * @return array<string, array<string, bool>>
     */
    private static function same(TableStore $table): array
    {
        $columns = [];
        foreach ($table->manifest()->definition->columns as $column) {
            $columns[$column->name] = [$column->name => true];
        }

        return $columns;
    }

    private static function tableOf(string $column): string
    {
        return substr($column, 0, (int) strrpos($column, '.'));
    }
}
