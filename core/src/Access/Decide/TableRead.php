<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

/**
 * One mention of a table or view in a statement, and what came of it.
 */
final class TableRead
{
    /** @var array<string, array<string, true>> column => what it is used for: output, filter, join, group, order, all */
    public array $uses = [];

    /**
     * @var array<string, list<array{string, string|null}>|null> column => values or ranges (low,
     *     high) asked for; null when that cannot be known
     */
    public array $asked = [];

    /** Whether the select that reads it gives groups and totals only. */
    public bool $aggregated = false;

    /** Why that select shows more than totals; null when it does not. */
    public ?string $shows = null;

    /** Whether other tables are read beside it, which may repeat its rows. */
    public bool $joined = false;

    /** Whether * stands for its columns. */
    public bool $star = false;

    /** Whether only some of its rows are left, or only groups of them. */
    public bool $narrowed = false;

    /** Whether groups of few rows are to be left out. */
    public bool $grouped = false;

    /** @var array<string, string> name of the rule or dimension => the rows left by it, as SQL */
    public array $left = [];

    /** @var list<string> of dimensions read in totals only */
    public array $totals = [];

    /**
     * @param  int  $index among the reads of the statement
     * @param  string|null  $view in whose text it stands
     */
    public function __construct(
        public readonly int $index,
        public readonly string $path,
        public readonly string $alias,
        public readonly TableAccess $access,
        public readonly ?string $view,
        public readonly ?Reader $owner,
    ) {
    }

    public function use(string $column, string $for): void
    {
        $this->uses[$column][$for] = true;
    }

    /** Whether all rows are read, and of all columns used the values as they are. */
    public function isPlain(): bool
    {
        if ($this->narrowed || $this->grouped || $this->totals !== []) {
            return false;
        }
        $used = $this->star ? $this->access->columns : array_intersect_key($this->access->columns, $this->uses);

        return array_filter($used, static fn (ColumnAccess $one): bool => $one->sight !== Sight::Visible) === [];
    }

    /** Whether a column is not named, so that rows are only added up over it. */
    public function addsUpOver(string $column): bool
    {
        return $this->aggregated && $this->shows === null && ! isset($this->uses[$column]);
    }
}
