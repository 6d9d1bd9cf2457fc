<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

/**
 * Which share of the rows of a table a condition on its columns keeps: by what was counted of the values asked for, else by how many
 * different ones there are.
 */
final readonly class RowShares
{
    /** Share of the rows a span is taken to keep where it was not counted. */
    public const SPAN = 0.2;

    /**
     * @param  array<string, IndexedTable>  $tables
     * @param  array<string, array<string, array<string, float>>>  $values table => column => value => share of the rows that have it; the
     *     most frequent ones
     * @param  array<string, array<string, float>>  $spans fingerprint and alias, with a space between => column => share its span keeps
     */
    public function __construct(private array $tables, private array $values = [], private array $spans = [])
    {
    }

    public function ofConstant(IndexReach $reach, string $column): float
    {
        return min(1.0, self::share(
            $this->tables[$reach->table]->distinct($column),
            $reach->values[$column] ?? null,
            $this->values[$reach->table][$column] ?? [],
        ));
    }

    /** Of the rows of a table those that fit one row of another. */
    public function matching(IndexReach $reach, string $column): float
    {
        return 1.0 / $this->tables[$reach->table]->distinct($column);
    }

    public function ofSpan(IndexReach $reach, string $column, string $statement): float
    {
        return $this->spans["{$statement} {$reach->alias}"][$column] ?? self::SPAN;
    }

    /**
     * Share of the rows that have the values asked for.
     *
     * @param  list<string>|null  $values null where they are not known
     * @param  array<string, float>  $shares of the most frequent values
     */
    private static function share(float $distinct, ?array $values, array $shares): float
    {
        if ($shares === []) {
            return count($values ?? [1]) / $distinct;
        }
        $rest = max(0.0, 1 - array_sum($shares)) / max(1.0, $distinct - count($shares));
        if ($values === null) {
            // Asked for as often as they are there.
            return array_sum(array_map(static fn (float $share): float => $share ** 2, $shares)) + $rest * max(0.0, 1 - array_sum($shares));
        }

        return array_sum(array_map(static fn (string $value): float => $shares[$value] ?? $rest, $values));
    }
}
