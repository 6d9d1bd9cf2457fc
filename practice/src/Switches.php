<?php

declare(strict_types=1);

namespace Fulcrion\Practice;

/**
 * Rewrites of the planner that are not to be used, so that it can be seen what each is worth.
 */
final readonly class Switches
{
    public const SPANS = 'spans';

    public const SUBQUERIES = 'subqueries';

    public const DOWN = 'filters-down';

    public const COLUMNS = 'columns';

    public const ORDER = 'join-order';

    public const PARTIAL = 'partial-sums';

    public const KEYS = 'told-keys';

    public const SKIPPING = 'skipping';

    public const ROLLUPS = 'rollups';

    public const LOOKUPS = 'lookups';

    /** What each does, as a title and one sentence. */
    public const ALL = [
        self::SPANS => ['Filters said as spans', 'A filter that wrapped a column was registered to be said as a span of it.'],
        self::ROLLUPS => ['Rollup in place of its table', 'Groups were read from a stored rollup that holds finer ones.'],
        self::LOOKUPS => [
            'Lookup in place of a join',
            'A dimension was looked up by its key, and its filter became one on the key of the larger table.',
        ],
        self::SUBQUERIES => ['Subqueries as joins', 'IN and EXISTS were answered once for all rows instead of row by row.'],
        self::DOWN => ['Filters before joins', 'Conditions were moved down to where the rows are read.'],
        self::SKIPPING => ['Chunks skipped', 'Chunks whose bounds cannot meet the conditions were not opened.'],
        self::COLUMNS => ['Columns left out', 'Columns nobody asks for were not read.'],
        self::ORDER => ['Order of joins', 'Joins were put in the order that makes the fewest rows.'],
        self::KEYS => ['Keys told beforehand', 'A join told the read below which keys it looks for.'],
        self::PARTIAL => ['Partial sums', 'Every node summed its own rows before they were sent.'],
    ];

    /**
     * @param  list<string>  $off
     */
    public function __construct(private array $off = [])
    {
    }

    public function on(string $rewrite): bool
    {
        return ! in_array($rewrite, $this->off, true);
    }
}
