<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Catalog\ColumnOrigin;
use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Privilege;

/**
 * What somebody sees of a table that was made of others: no more than of those. Rules and labels hold for every column
 * that flowed on, filters for the rows. A right to read the origins is needed too, unless one is given at the table itself.
 */
final readonly class Inheritance
{
    /**
     * @param  bool  $byGrants whether rights count, or rules alone
     */
    public function __construct(private Reader $reader, private bool $byGrants)
    {
    }

    /**
     * @param  list<ColumnOrigin>  $origins
     */
    public function of(TableAccess $access, array $origins): TableAccess
    {
        $columns = $access->columns;
        $filters = $access->filters;
        foreach ($origins as $origin) {
            if ($origin->path === $access->table->path) {
                continue;
            }
            $source = $this->reader->policy->source($origin);
            $above = $this->reader->sourceByRules($source);
            $closed = $this->closes($access->table, $origin, $source, $above);
            foreach ($above->filters as $rule => $filter) {
                $names = $origin->former
                    ? array_combine($filter->columns(), $filter->columns())
                    : array_map($origin->rowColumn(...), array_combine($filter->columns(), $filter->columns()));
                $there = array_filter($names, static fn (?string $name): bool => $name !== null && isset($access->table->columns[$name]));
                if (count($there) < count($names)) {
                    $closed ??= new Cause(
                        Cause::ORIGIN,
                        (string) $rule,
                        $origin->path,
                        "rule {$rule} filters them by ".
                            implode(', ', array_keys(array_diff_key($names, $there))).
                            ', which did not come along',
                    );
                } else {
                    $filters["{$rule} of {$origin->path}"] = $filter->renamed(array_map(strval(...), $there));
                }
            }
            if ($closed !== null) {
                $columns = array_map(
                    static fn (ColumnAccess $own): ColumnAccess => $own->and(new ColumnAccess(Sight::Denied, null, [$closed])),
                    $columns,
                );

                continue;
            }
            foreach ($columns as $column => $own) {
                foreach ($origin->columns[$column] ?? [] as $from => $isCopy) {
                    $columns[$column] = $columns[$column]->and(
                        $this->column($access->table, (string) $column, $origin, (string) $from, $isCopy, $above),
                    );
                }
            }
        }

        return new TableAccess(
            $access->table,
            $this->within($columns, $access->table->path, $origins),
            $filters,
            $access->privileges,
            $access->errors,
        );
    }

    /** Why nothing of the table may be seen; null when that depends on the column. */
    private function closes(TableEntry $table, ColumnOrigin $origin, TableEntry $source, TableAccess $above): ?Cause
    {
        foreach ($above->errors as $error) {
            return $error;
        }
        foreach ($origin->conditions as $column) {
            $sight = $above->columns[$column]->sight ?? Sight::Visible;
            if ($sight !== Sight::Visible) {
                return new Cause(
                    Cause::ORIGIN,
                    $column,
                    $origin->path,
                    "{$column}, which is {$sight->value}, decided which of them are here",
                );
            }
        }
        if (! $this->byGrants) {
            return null;
        }
        $given = $this->isGiven($table);
        $missing = $given ? null : $this->reader->missing(Privilege::Use, (string) ObjectPath::parent($source->path));
        if ($missing === null && $origin->sources() === []) {
            // Only the number of its rows came along.
            $denied = $this->reader->standing($source->path)->denied & Privilege::Select->bit();
            $missing = $given && $denied === 0 ? null : $this->reader->missing(Privilege::Select, $source->path);
        }

        return $missing === null ? null : new Cause(Cause::ORIGIN, '', $origin->path, self::words($missing));
    }

    private function column(
        TableEntry $table,
        string $column,
        ColumnOrigin $origin,
        string $from,
        bool $isCopy,
        TableAccess $above,
    ): ColumnAccess {
        $access = $above->columns[$from] ?? new ColumnAccess(Sight::Visible);
        if ($access->mask !== null && ! $isCopy) {
            // What is computed from a value may show what its mask hides.
            $access = new ColumnAccess(Sight::Masked, Masking::nothing(), $access->causes);
        }
        if ($this->byGrants) {
            $path = ObjectPath::child($origin->path, $from);
            $denied = $this->reader->standing($path)->denied & Privilege::Select->bit();
            $given = $this->isGiven($table) || $this->reader->isGivenAt(ObjectPath::child($table->path, $column));
            $missing = $given && $denied === 0 ? null : $this->reader->missing(Privilege::Select, $path);
            if ($missing !== null) {
                $access = $access->and(
                    new ColumnAccess(Sight::Denied, null, [new Cause(Cause::ORIGIN, $from, $origin->path, self::words($missing))]),
                );
            }
        }

        return $access;
    }

    private static function words(Cause $missing): string
    {
        return $missing->kind === Cause::DENY_GRANT ? (string) $missing : "there is {$missing}";
    }

    private function isGiven(TableEntry $table): bool
    {
        return $this->reader->isGivenAt($table->path);
    }

    /**
     * Columns of the table itself that flowed into each other, by changes.
     *
     * @param  array<string, ColumnAccess>  $columns
     * @param  list<ColumnOrigin>  $origins
     * @return array<string, ColumnAccess>
     */
    private function within(array $columns, string $path, array $origins): array
    {
        foreach ($origins as $origin) {
            // Twice for each column at most: a value may have come over several others.
            for ($i = $origin->path === $path ? count($origin->columns) : 0; $i > 0; $i--) {
                foreach ($origin->columns as $column => $sources) {
                    foreach ($sources as $from => $isCopy) {
                        $access = $columns[$from] ?? null;
                        if ($access !== null && isset($columns[$column]) && (string) $from !== (string) $column) {
                            $access =
                                $access->mask === null || $isCopy
                                    ? $access
                                    : new ColumnAccess(Sight::Masked, Masking::nothing(), $access->causes);
                            $columns[$column] = $columns[$column]->and($access);
                        }
                    }
                }
            }
        }

        return $columns;
    }
}
