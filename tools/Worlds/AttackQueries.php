<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Worlds;

use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Random queries over the tables and views of a small world, written to get around a policy: aliases that rename columns,
 * joins of every kind, named and nested queries, correlated ones, set operations, windows, casts that fail on some values.
 */
final class AttackQueries
{
    /** Columns of each table with a letter for their types: whole, text, date. */
    private const TABLES = [
        'a' => ['k' => 'w', 'v' => 't', 'n' => 'w', 'r' => 't', 'c' => 't'],
        'b' => ['k' => 'w', 'w' => 't', 'd' => 'd'],
        'va' => ['k' => 'w', 'vv' => 't', 'n' => 'w'],
        'vj' => ['k' => 'w', 'v' => 't', 'w' => 't'],
    ];

    private const TEXTS = ['alpha', 'beta', 'gamma', 'north', 'south', 'fen', 'hill', '***', '***ha', 'x', 'ann@x.example', '10', '2026'];

    private readonly Randomizer $random;

    private int $names = 0;

    /** @var list<array{string, array<string, string>}> named queries in force, with their columns */
    private array $common = [];

    /** @var list<array{string, array<string, string>}> relations of the query around, for correlated ones */
    private array $outer = [];

    public function __construct(int $seed, private readonly string $schema)
    {
        $this->random = new Randomizer(new Mt19937($seed));
    }

    /** @var list<string> expressions of the query at hand that fail on some values */
    private array $failing = [];

    /** @var list<string> queries that evaluate them for every row there is */
    public array $probes = [];

    public function one(): string
    {
        $this->common = $this->outer = $this->failing = $this->probes = [];
        $with = [];
        for ($i = $this->chance(25) ? $this->random->getInt(1, 2) : 0; $i > 0; $i--) {
            $name = $this->name('q');
            [$sql, $columns] = $this->select(1);
            $given = $this->chance(40) ? array_map(fn (): string => $this->name('c'), $columns) : [];
            $with[] = "{$name}".($given === [] ? '' : ' ('.implode(', ', $given).')')." AS ({$sql})";
            $this->common[] = [$name, $given === [] ? $columns : array_combine($given, array_values($columns))];
        }
        [$sql, $columns] = $this->select(0);
        if ($this->chance(15)) {
            [$other, $its] = $this->select(1);
            if (array_values($its) === array_values($columns)) {
                $sql .= ' '.$this->of(['UNION', 'UNION ALL', 'INTERSECT', 'EXCEPT'])." {$other}";
            }
        }
        if ($this->chance(25)) {
            // By all columns, so that the rows cut off are always the same.
            $sql .=
                ' ORDER BY '.
                implode(', ', range(1, max(1, count($columns)))).
                ($this->chance(50) ? ' LIMIT '.$this->random->getInt(1, 4) : '');
        }

        $prefix = $with === [] ? '' : 'WITH '.implode(', ', $with).' ';
        $this->probes = array_map(static fn (string $probe): string => $prefix.$probe, $this->probes);

        return $prefix.$sql;
    }

    /**
     * @return array{string, array<string, string>} query, its columns with their types
     */
    private function select(int $depth): array
    {
        $failing = $this->failing;
        $this->failing = [];
        [$from, $relations] = $this->from($depth);
        $made = $this->selected($depth, $from, $relations);
        // @phpstan-ignore foreach.emptyArray (what is made meanwhile fills it)
        foreach ($this->failing as $expression) {
            $this->probes[] = "SELECT {$expression} FROM {$from}";
        }
        $this->failing = $failing;

        return $made;
    }

    /**
     * @param  list<array{string, array<string, string>}>  $relations
     * @return array{string, array<string, string>}
     */
    private function selected(int $depth, string $from, array $relations): array
    {
        $around = $this->outer;
        $this->outer = [];
        $where = $this->chance(60) ? ' WHERE '.$this->condition($relations, $depth, $around) : '';
        $this->outer = $around;
        if ($this->chance(25)) {
            return $this->grouped($from, $where, $relations);
        }
        $items = $columns = [];
        for ($i = $this->random->getInt(1, 4); $i > 0; $i--) {
            [$value, $type] = $this->value($relations, $depth);
            $alias = $this->name('o');
            $items[] = "{$value} AS {$alias}";
            $columns[$alias] = $type;
        }
        if ($depth === 0 && $this->chance(12)) {
            // What * stands for is not known to whoever writes it.
            return ["SELECT * FROM {$from}{$where}", []];
        }
        if ($depth === 0 && $this->chance(10)) {
            [$partition] = $this->value($relations, 9);
            [$order] = $this->value($relations, 9);
            $items[] =
                $this->of(['count(*)', 'row_number()', 'rank()']).
                " OVER (PARTITION BY {$partition} ORDER BY {$order}, ".
                implode(', ', array_map(static fn (array $one): string => "{$one[0]}.".array_key_first($one[1]), $relations)).
                ') AS '.
                ($alias = $this->name('o'));
            $columns[$alias] = 'w';
            if (str_contains(end($items), 'row_number')) {
                array_pop($items);
                array_pop($columns);
            }
        }

        return ['SELECT '.($this->chance(15) ? 'DISTINCT ' : '').implode(', ', $items)." FROM {$from}{$where}", $columns];
    }

    /**
     * @param  list<array{string, array<string, string>}>  $relations
     * @return array{string, array<string, string>}
     */
    private function grouped(string $from, string $where, array $relations): array
    {
        $items = $groups = $columns = [];
        for ($i = $this->random->getInt(0, 2); $i > 0; $i--) {
            [$value, $type] = $this->value($relations, 9);
            $alias = $this->name('g');
            $items[] = "{$value} AS {$alias}";
            $groups[] = $this->of([$value, $alias, (string) count($items)]);
            $columns[$alias] = $type;
        }
        for ($i = $this->random->getInt(1, 2); $i > 0; $i--) {
            [$value, $type] = $this->value($relations, 9);
            $alias = $this->name('s');
            [$call, $as] = $this->of([
                ['count(*)', 'w'],
                ["count({$value})", 'w'],
                ["count(DISTINCT {$value})", 'w'],
                ["min({$value})", $type],
                ["max({$value})", $type],
                $type === 'w' ? ["sum({$value})", 'w'] : ["max({$value})", $type],
            ]);
            $items[] = "{$call} AS {$alias}";
            $columns[$alias] = $as;
        }
        $having = $this->chance(25) ? ' HAVING count(*) '.$this->of(['> 1', '>= 2', '< 4']) : '';

        return [
            'SELECT '.
            implode(', ', $items).
            " FROM {$from}{$where}".
            ($groups === [] ? '' : ' GROUP BY '.implode(', ', $groups)).
            $having,
            $columns,
        ];
    }

    /**
     * @return array{string, list<array{string, array<string, string>}>} text, alias and columns of each relation
     */
    private function from(int $depth): array
    {
        [$text, $alias, $columns] = $this->relation($depth);
        $relations = [[$alias, $columns]];
        for ($i = $this->chance(35) ? $this->random->getInt(1, 2) : 0; $i > 0; $i--) {
            [$right, $other, $its] = $this->relation($depth + 1);
            $kind = $this->of(['JOIN', 'LEFT JOIN', 'RIGHT JOIN', 'FULL JOIN', 'CROSS JOIN']);
            $shared = count($relations) === 1 ? array_keys(array_intersect_key($columns, $its)) : [];
            if ($kind === 'CROSS JOIN') {
                $text .= " {$kind} {$right}";
            } elseif ($shared !== [] && $this->chance(30)) {
                $text .= $this->chance(30)
                    ? ' NATURAL '.($kind === 'FULL JOIN' ? 'JOIN' : $kind)." {$right}"
                    : " {$kind} {$right} USING (".$this->of($shared).')';
            } else {
                [$x, $y] = [$this->column($relations), $this->column([[$other, $its]], null)];
                $on = $x[1] === $y[1] ? "{$x[0]} = {$y[0]}" : $this->test($x[0], $x[1]);
                $text .= " {$kind} {$right} ON {$on}".($this->chance(25) ? ' AND '.$this->test($y[0], $y[1]) : '');
            }
            $relations[] = [$other, $its];
        }

        return [$text, $relations];
    }

    /**
     * @return array{string, string, array<string, string>}
     */
    private function relation(int $depth): array
    {
        $alias = $this->name('x');
        if ($this->common !== [] && $this->chance(50)) {
            [$name, $columns] = $this->of($this->common);

            return ["{$name} AS {$alias}", $alias, $columns];
        }
        if ($depth < 2 && $this->chance(20)) {
            [$sql, $columns] = $this->select($depth + 1);
            $given = $this->chance(30) ? array_map(fn (): string => $this->name('c'), $columns) : [];

            return [
                "({$sql}) AS {$alias}".($given === [] ? '' : ' ('.implode(', ', $given).')'),
                $alias,
                $given === [] ? $columns : array_combine($given, array_values($columns)),
            ];
        }
        $table = $this->of(['a', 'a', 'a', 'b', 'b', 'va', 'vj']);
        $columns = self::TABLES[$table];
        $name = $this->of(["{$this->schema}.{$table}", $table]);
        if ($this->chance(15)) {
            $given = array_map(fn (): string => $this->name('c'), $columns);

            return ["{$name} AS {$alias} (".implode(', ', $given).')', $alias, array_combine($given, array_values($columns))];
        }

        return ["{$name} AS {$alias}", $alias, $columns];
    }

    /**
     * @param  list<array{string, array<string, string>}>  $relations
     * @return array{string, string} text, type
     */
    private function column(array $relations, ?string $type = null): array
    {
        $all = [];
        foreach ($relations as [$alias, $columns]) {
            foreach ($columns as $name => $its) {
                if ($type === null || $its === $type) {
                    $all[] = ["{$alias}.{$name}", $its];
                }
            }
        }

        return $all === [] ? ['1', 'w'] : $this->of($all);
    }

    /**
     * @param  list<array{string, array<string, string>}>  $relations
     * @return array{string, string}
     */
    private function value(array $relations, int $depth): array
    {
        [$column, $type] = $this->column($relations);
        if ($this->chance(55)) {
            return [$column, $type];
        }
        if ($depth < 1 && $this->chance(15)) {
            [$table, $its] = $this->of([['a', 'k'], ['b', 'k']]);
            $inner = $this->name('i');
            [$whole] = $this->column($relations, 'w');

            return [
                '(SELECT '.
                $this->of(['count(*)', "max({$inner}.{$its})"]).
                " FROM {$this->schema}.{$table} AS {$inner} WHERE {$inner}.{$its} = {$whole})",
                'w',
            ];
        }
        if ($this->chance(20)) {
            $test = $this->test($column, $type);

            return $this->of([["CASE WHEN {$test} THEN 1 ELSE 0 END", 'w'], ["CASE WHEN {$test} THEN {$column} END", $type]]);
        }

        if ($type === 't' && $this->chance(15)) {
            return [($this->failing[] = "CAST({$column} AS bigint)"), 'w'];
        }

        return match ($type) {
            't' => $this->of([
                ["upper({$column})", 't'],
                ["concat({$column}, '!')", 't'],
                ["char_length({$column})", 'w'],
                ["left({$column}, 3)", 't'],
                ["coalesce({$column}, 'none')", 't'],
            ]),
            'w' => $this->of([
                ["{$column} + 1", 'w'],
                ["{$column} * 10", 'w'],
                ["10 / ({$column} - 20)", 'f'],
                ["coalesce({$column}, 0)", 'w'],
                ["CAST({$column} AS text)", 't'],
            ]),
            default => $this->of([
                ["extract(year FROM {$column})", 'w'],
                ["{$column} + INTERVAL 1 DAY", 'd'],
                ["CAST({$column} AS text)", 't'],
            ]),
        };
    }

    /**
     * @param  list<array{string, array<string, string>}>  $relations
     * @param  list<array{string, array<string, string>}>  $outer
     */
    private function condition(array $relations, int $depth, array $outer): string
    {
        $parts = [];
        for ($i = $this->random->getInt(1, 3); $i > 0; $i--) {
            [$column, $type] = $this->column($outer !== [] && $this->chance(30) ? $outer : $relations);
            $parts[] =
                $depth < 1 && $this->chance(20)
                    ? $this->nested($relations)
                    : ($this->chance(12)
                        ? $this->failing($column, $type)
                        : $this->test($column, $type));
        }

        return implode(
            $this->of([' AND ', ' AND ', ' OR ']),
            array_map(fn (string $part): string => $this->chance(10) ? "NOT ({$part})" : $part, $parts),
        );
    }

    /**
     * @param  list<array{string, array<string, string>}>  $relations
     */
    private function nested(array $relations): string
    {
        $around = $this->outer;
        $this->outer = $relations;
        [$whole] = $this->column($relations, 'w');
        $inner = $this->name('i');
        $table = $this->of(['a', 'b']);
        $test = $this->test("{$inner}.".($table === 'a' ? 'v' : 'w'), 't');
        $sql = $this->of([
            "{$whole} IN (SELECT {$inner}.k FROM {$this->schema}.{$table} AS {$inner} WHERE {$test})",
            "EXISTS (SELECT 1 FROM {$this->schema}.{$table} AS {$inner} WHERE {$inner}.k = {$whole} AND {$test})",
            "NOT EXISTS (SELECT 1 FROM {$this->schema}.{$table} AS {$inner} WHERE {$inner}.k = {$whole} AND {$test})",
            "{$whole} > (SELECT min({$inner}.k) FROM {$this->schema}.{$table} AS {$inner} WHERE {$test})",
        ]);
        $this->outer = $around;

        return $sql;
    }

    /** A condition that fails on some values, so that an error tells whether there is one. */
    private function failing(string $column, string $type): string
    {
        return $this->failing[] = match ($type) {
            't' => "CAST({$column} AS bigint) > 0",
            'd' => "CAST(CAST({$column} AS text) AS bigint) > 0",
            default => "CAST(concat('1', CASE WHEN {$column} = ".$this->random->getInt(1, 65)." THEN 'z' ELSE '' END) AS bigint) > 0",
        };
    }

    private function test(string $column, string $type): string
    {
        $text = "'".$this->of(self::TEXTS)."'";

        return match ($type) {
            't' => $this->of([
                "{$column} = {$text}",
                "{$column} <> {$text}",
                "{$column} LIKE '%a%'",
                "{$column} IN ({$text}, '".$this->of(self::TEXTS)."')",
                "{$column} IS NULL",
                "{$column} > {$text}",
                "char_length({$column}) > 3",
            ]),
            'd' => $this->of(["{$column} >= DATE '2026-01-01'", "{$column} IS NOT NULL", "{$column} < DATE '2026-02-01'"]),
            'f' => "{$column} > 0",
            default => $this->of([
                "{$column} > ".$this->random->getInt(0, 40),
                "{$column} = ".$this->random->getInt(1, 10),
                "{$column} BETWEEN 2 AND ".$this->random->getInt(3, 40),
                "{$column} IS NULL",
                "{$column} % 2 = 0",
            ]),
        };
    }

    private function name(string $notification): string
    {
        return $notification.++$this->names;
    }

    /** @phpstan-impure */
    private function chance(int $percent): bool
    {
        return $this->random->getInt(1, 100) <= $percent;
    }

    /**
     * @template T
     *
     * @param  list<T>  $list
     * @return T
     */
    private function of(array $list): mixed
    {
        return $list[$this->random->getInt(0, count($list) - 1)];
    }
}
