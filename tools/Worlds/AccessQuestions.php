<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Worlds;

/**
 * Random statements over a world, each with what it must give: refused, or these rows, computed by plain loops over what
 * the person sees.
 */
final readonly class AccessQuestions
{
    public function __construct(private AccessWorld $world, private string $schema)
    {
    }

    /**
     * @return array{string, list<list<int|string|null>>|null} statement, rows; null when it must be refused
     */
    public function ask(string $person): array
    {
        $w = $this->world;
        $see = static fn (string $table): VirtualTable => $w->table("person:{$person}", ["person:{$person}"], $table);

        return match (
            $w->one([
                'plain',
                'plain',
                'plain',
                'star',
                'groups',
                'totals',
                'join',
                'using',
                'named',
                'within',
                'beside',
                'union',
                'view',
                'view',
                'star view',
            ])
        ) {
            'plain' => $this->plain($see, $w->one(['a', 'a', 'b'])),
            'view' => $this->plain($see, $w->one(['va', 'vj'])),
            'star' => $this->star($see, $w->one(['a', 'b'])),
            'star view' => $this->star($see, $w->one(['va', 'vj'])),
            'groups' => $this->groups($see),
            'totals' => $this->totals($see),
            'join' => $this->join($see, false),
            'using' => $this->join($see, true),
            'named' => $this->named($see),
            'within' => $this->within($see),
            'beside' => $this->beside($see),
            'union' => $this->union($see),
        };
    }

    /**
     * Whether columns of a table may be named, asking for these values of the scoped one; null for all of them.
     *
     * @param  list<string>  $named
     * @param  list<string>|null  $asked
     */
    private static function may(VirtualTable $table, array $named, ?array $asked = null, bool $totals = false): bool
    {
        if ($table->closed || array_diff($named, $table->columns) !== []) {
            return false;
        }
        foreach ($table->scoped as $column => [$detail, $total, $mode]) {
            $allowed = $totals && ! in_array($column, $named, true) ? $total : $detail;
            if ($mode === 'refuse' && $allowed !== null && ($asked === null || array_diff($asked, $allowed) !== [])) {
                return false;
            }
        }

        return true;
    }

    /**
     * A random condition on one column: text, the function, values asked for of it.
     *
     * @return array{string, \Closure(int|string|null): bool, list<string>|null}
     */
    private function condition(string $column): array
    {
        $quote = static fn (string $value): string => "'{$value}'";
        if (in_array($column, ['k', 'n'], true)) {
            $limit = $this->world->one([1, 2, 20, 40]);

            return $this->world->one([
                ["{$column} > {$limit}", static fn (int|string|null $value): bool => $value !== null && $value > $limit, null],
                ["{$column} IS NOT NULL", static fn (int|string|null $value): bool => $value !== null, null],
            ]);
        }
        if ($column === 'd') {
            return [
                "{$column} >= '2026-01-01'",
                static fn (int|string|null $value): bool => $value !== null && $value >= '2026-01-01',
                null,
            ];
        }
        $values = [
            $this->world->one($column === 'r' ? ['north', 'south', 'fen', 'hill'] : ['alpha', 'beta', 'x', '***', 'alpha!', '***ha']),
            $this->world->one($column === 'r' ? ['north', 'fen'] : ['gamma', 'beta']),
        ];

        return $this->world->one([
            ["{$column} = {$quote($values[0])}", static fn (int|string|null $value): bool => $value === $values[0], [$values[0]]],
            [
                "{$column} IN ({$quote($values[0])}, {$quote($values[1])})",
                static fn (int|string|null $value): bool => in_array($value, $values, true),
                $values,
            ],
            [
                "{$column} LIKE '%a%'",
                static fn (int|string|null $value): bool => $value !== null && str_contains((string) $value, 'a'),
                null,
            ],
        ]);
    }

    /**
     * @return list<string>
     */
    private function columns(string $table): array
    {
        $columns = $this->world->some(AccessWorld::COLUMNS[$table]);

        return $columns === [] ? [AccessWorld::COLUMNS[$table][0]] : $columns;
    }

    /**
     * @param  list<array<string, int|string|null>>  $rows
     * @param  list<string>  $columns
     * @return list<list<int|string|null>>
     */
    private static function pick(array $rows, array $columns): array
    {
        return array_map(
            static fn (array $row): array => array_map(static fn (string $column): int|string|null => $row[$column], $columns),
            $rows,
        );
    }

    /**
     * @param  \Closure(string): VirtualTable  $see
     * @return array{string, list<list<int|string|null>>|null}
     */
    private function plain(\Closure $see, string $table): array
    {
        $columns = $this->columns($table);
        $sql = 'SELECT '.implode(', ', $columns)." FROM {$this->schema}.{$table}";
        $seen = $see($table);
        $by = $this->world->chance(60) ? $this->world->one(AccessWorld::COLUMNS[$table]) : null;
        [$text, $holds, $values] = $by === null ? ['', static fn (): bool => true, null] : $this->condition($by);
        $named = [...$columns, ...$by === null ? [] : [$by]];
        $sql .= $by === null ? '' : " WHERE {$text}";
        if ($this->world->chance(20)) {
            $order = $this->world->one(AccessWorld::COLUMNS[$table]);
            $named[] = $order;
            $sql .= " ORDER BY {$order}";
        }

        return [
            $sql,
            self::may($seen, $named, $by === 'r' ? $values : null)
                ? self::pick(
                    array_values(array_filter($seen->rows, static fn (array $row): bool => $by === null || $holds($row[$by]))),
                    $columns,
                )
                : null,
        ];
    }

    /**
     * @param  \Closure(string): VirtualTable  $see
     * @return array{string, list<list<int|string|null>>|null}
     */
    private function star(\Closure $see, string $table): array
    {
        $seen = $see($table);
        $denied = array_diff(AccessWorld::COLUMNS[$table], $seen->columns, $seen->hidden);

        return [
            "SELECT * FROM {$this->schema}.{$table}",
            $denied === [] && self::may($seen, $seen->columns) ? self::pick($seen->rows, $seen->columns) : null,
        ];
    }

    /**
     * @param  \Closure(string): VirtualTable  $see
     * @return array{string, list<list<int|string|null>>|null}
     */
    private function groups(\Closure $see): array
    {
        $seen = $see('a');
        $by = $this->world->one(['v', 'n', 'r', 'c']);
        $sql = "SELECT {$by}, count(*) AS times, sum(n) AS total FROM {$this->schema}.a GROUP BY ".$this->world->one([$by, '1']);
        if (! self::may($seen, [$by, 'n'], null, true)) {
            return [$sql, null];
        }
        $groups = [];
        foreach ($by === 'r' || ! isset($seen->scoped['r']) ? $seen->rows : $seen->whole as $row) {
            $groups[json_encode($row[$by])][] = $row;
        }
        $sum = static fn (array $rows): ?int => ($numbers = array_filter(array_column($rows, 'n'), is_int(...))) === []
            ? null
            : array_sum($numbers);

        $enough = array_filter(
            $groups,
            fn (array $rows): bool => $by === 'r' || ! self::isTotal($seen) || count($rows) >= $this->world->smallest,
        );

        return [$sql, array_values(array_map(static fn (array $rows): array => [$rows[0][$by], count($rows), $sum($rows)], $enough))];
    }

    /**
     * @param  \Closure(string): VirtualTable  $see
     * @return array{string, list<list<int|string|null>>|null}
     */
    private function totals(\Closure $see): array
    {
        $seen = $see('a');
        $sql = "SELECT count(*) AS times FROM {$this->schema}.a";

        $enough = ! self::isTotal($seen) || $this->world->smallest < 2 || count($seen->whole) >= $this->world->smallest;

        return [$sql, self::may($seen, [], null, true) ? ($enough ? [[count($seen->whole)]] : []) : null];
    }

    /** Whether more is shown in totals than in detail. */
    private static function isTotal(VirtualTable $seen): bool
    {
        return isset($seen->scoped['r']) && $seen->scoped['r'][3];
    }

    /**
     * @param  \Closure(string): VirtualTable  $see
     * @return array{string, list<list<int|string|null>>|null}
     */
    private function join(\Closure $see, bool $using): array
    {
        [$a, $b] = [$see('a'), $see('b')];
        $mine = $this->world->one(['v', 'n', 'r', 'c']);
        $theirs = $this->world->one(['w', 'd']);
        [$left, $right] = $using ? ['k', 'k'] : $this->world->one([['k', 'k'], ['v', 'w']]);
        $outer = $this->world->chance(30);
        $sql =
            "SELECT x.{$mine}, y.{$theirs} FROM {$this->schema}.a AS x ".
            ($outer ? 'LEFT JOIN' : 'JOIN').
            " {$this->schema}.b AS y ".
            ($using ? 'USING (k)' : "ON x.{$left} = y.{$right}");
        if (! self::may($a, [$mine, $left]) || ! self::may($b, [$theirs, $right])) {
            return [$sql, null];
        }
        $rows = [];
        foreach ($a->rows as $one) {
            $met = false;
            foreach ($b->rows as $two) {
                if ($one[$left] !== null && $one[$left] === $two[$right]) {
                    $met = true;
                    $rows[] = [$one[$mine], $two[$theirs]];
                }
            }
            if ($outer && ! $met) {
                $rows[] = [$one[$mine], null];
            }
        }

        return [$sql, $rows];
    }

    /**
     * @param  \Closure(string): VirtualTable  $see
     * @return array{string, list<list<int|string|null>>|null}
     */
    private function named(\Closure $see): array
    {
        $seen = $see('a');
        $columns = $this->columns('a');
        $by = $this->world->one($columns);
        [$text, $holds] = $this->condition($by);

        return [
            'WITH q AS (SELECT '.implode(', ', $columns)." FROM {$this->schema}.a) SELECT {$by} AS z FROM q WHERE {$text}",
            self::may($seen, $columns)
                ? self::pick(array_values(array_filter($seen->rows, static fn (array $row): bool => $holds($row[$by]))), [$by])
                : null,
        ];
    }

    /**
     * @param  \Closure(string): VirtualTable  $see
     * @return array{string, list<list<int|string|null>>|null}
     */
    private function within(\Closure $see): array
    {
        [$a, $b] = [$see('a'), $see('b')];
        $mine = $this->world->one(['v', 'n', 'c']);
        [$text, $holds] = $this->condition('w');
        $keys = static fn (): array => array_column(array_filter($b->rows, static fn (array $row): bool => $holds($row['w'])), 'k');
        if ($this->world->chance(50)) {
            $sql = "SELECT {$mine} FROM {$this->schema}.a WHERE k IN (SELECT k FROM {$this->schema}.b WHERE {$text})";
        } else {
            $sql = "SELECT {$mine} FROM {$this->schema}.a AS o WHERE EXISTS (SELECT 1 FROM {$this->schema}.b AS i WHERE i.k = o.k AND "
                ."i.{$text})";
        }
        if (! self::may($a, [$mine, 'k']) || ! self::may($b, ['k', 'w'])) {
            return [$sql, null];
        }
        $found = $keys();

        return [
            $sql,
            self::pick(
                array_values(
                    array_filter($a->rows, static fn (array $row): bool => $row['k'] !== null && in_array($row['k'], $found, true)),
                ),
                [$mine],
            ),
        ];
    }

    /**
     * @param  \Closure(string): VirtualTable  $see
     * @return array{string, list<list<int|string|null>>|null}
     */
    private function beside(\Closure $see): array
    {
        [$a, $b] = [$see('a'), $see('b')];
        $mine = $this->world->one(['v', 'n', 'c']);
        $sql = "SELECT o.{$mine}, (SELECT count(*) FROM {$this->schema}.b AS i WHERE i.k = o.k) AS times FROM {$this->schema}.a AS o";
        if (! self::may($a, [$mine, 'k']) || ! self::may($b, ['k'])) {
            return [$sql, null];
        }

        return [
            $sql,
            array_map(
                static fn (array $row): array => [
                    $row[$mine],
                    count(array_filter($b->rows, static fn (array $other): bool => $row['k'] !== null && $other['k'] === $row['k'])),
                ],
                $a->rows,
            ),
        ];
    }

    /**
     * @param  \Closure(string): VirtualTable  $see
     * @return array{string, list<list<int|string|null>>|null}
     */
    private function union(\Closure $see): array
    {
        [$a, $b] = [$see('a'), $see('b')];
        $mine = $this->world->one(['v', 'c', 'r']);
        $all = $this->world->chance(50);
        $sql = "SELECT {$mine} FROM {$this->schema}.a UNION ".($all ? 'ALL ' : '')."SELECT w FROM {$this->schema}.b";
        if (! self::may($a, [$mine]) || ! self::may($b, ['w'])) {
            return [$sql, null];
        }
        $rows = [...self::pick($a->rows, [$mine]), ...self::pick($b->rows, ['w'])];

        return [
            $sql,
            $all
                ? $rows
                : array_values(
                    array_intersect_key($rows, array_unique(array_map(static fn (array $row): string =>
                        (string) json_encode($row), $rows))),
                ),
        ];
    }
}
