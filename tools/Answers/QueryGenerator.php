<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Answers;

use Random\Randomizer;

/**
 * Makes queries at random that both engines understand in the same words.
 */
final readonly class QueryGenerator
{
    private const NUMBERS = [
        'p' => ['p.id', 'p.bay', 'p.variety', 'p.kilos'],
        'v' => ['v.id', 'v.price'],
        'b' => ['b.id'],
        'c' => ['c.week'],
    ];

    private const TEXTS = ['p' => ['p.crew'], 'v' => ['v.family', 'v.name'], 'b' => ['b.house'], 'c' => ['c.season']];

    private const JOINS = [
        'v' => ['variety v', 'v.id = p.variety'],
        'b' => ['bay b', 'b.id = p.bay'],
        'c' => ['calendar c', 'c.day = p.picked'],
    ];

    public function __construct(private Randomizer $random)
    {
    }

    public function query(): string
    {
        return match ($this->random->getInt(0, 9)) {
            0, 1, 2 => $this->plain(),
            3, 4, 5, 6 => $this->grouped(),
            7 => $this->setOperation(),
            8 => $this->windowed(),
            default => $this->derived(),
        };
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
    private function one(array $list): mixed
    {
        return $list[$this->random->getInt(0, count($list) - 1)];
    }

    /**
     * @return array{string, list<string>} FROM and the aliases in it
     */
    private function from(): array
    {
        $from = 'pick p';
        $aliases = ['p'];
        foreach (self::JOINS as $alias => [$table, $condition]) {
            if ($this->chance(35)) {
                $from .=
                    ($this->chance(40) ? ' LEFT' : '').
                    " JOIN {$table} ON {$condition}".
                    ($this->chance(20) ? " AND {$this->number([$alias])} > {$this->random->getInt(0, 9)}" : '');
                $aliases[] = $alias;
            }
        }

        return [$from, $aliases];
    }

    /**
     * @param  list<string>  $aliases
     */
    private function number(array $aliases): string
    {
        return $this->one(array_merge(...array_map(static fn (string $alias): array => self::NUMBERS[$alias], $aliases)));
    }

    /**
     * @param  list<string>  $aliases
     */
    private function text(array $aliases): string
    {
        return $this->one(array_merge(...array_map(static fn (string $alias): array => self::TEXTS[$alias], $aliases)));
    }

    /**
     * @param  list<string>  $aliases
     */
    private function value(array $aliases, int $depth = 0): string
    {
        return match ($this->random->getInt(0, $depth > 1 ? 2 : 8)) {
            0, 1 => $this->number($aliases),
            2 => (string) $this->random->getInt(0, 12),
            3 => "({$this->value($aliases, $depth + 1)} + {$this->value($aliases, $depth + 1)})",
            4 => "({$this->value($aliases, $depth + 1)} - {$this->value($aliases, $depth + 1)})",
            5 => "({$this->number($aliases)} * {$this->random->getInt(2, 5)})",
            6 => "coalesce({$this->number($aliases)}, {$this->random->getInt(0, 9)})",
            7 => "CASE WHEN {$this->condition($aliases, 2)} THEN {$this->value($aliases, $depth + 1)} ELSE {$this->value(
                $aliases,
                $depth + 1,
            )} END",
            default => "round({$this->number($aliases)}, 1)",
        };
    }

    /**
     * @param  list<string>  $aliases
     */
    private function condition(array $aliases, int $depth = 0): string
    {
        return match ($this->random->getInt(0, $depth > 1 ? 8 : 14)) {
            0, 1 => "{$this->value($aliases, 2)} {$this->one(['=', '<>', '<', '<=', '>', '>='])} {$this->value($aliases, 2)}",
            2 => "{$this->text($aliases)} = {$this->one(["'Aldo'", "'herb'", "'north'", "'spring'"])}",
            3 => "{$this->text($aliases)} IS ".($this->chance(50) ? 'NOT ' : '').'NULL',
            4 => "{$this->number($aliases)} BETWEEN {$this->random->getInt(0, 5)} AND {$this->random->getInt(5, 20)}",
            5 => "{$this->number($aliases)} ".
                ($this->chance(40) ? 'NOT ' : '').
                'IN ('.
                $this->random->getInt(0, 5).
                ', '.
                $this->random->getInt(5, 20).
                ($this->chance(20) ? ', NULL' : '').
                ')',
            6 => "{$this->text($aliases)} LIKE {$this->one(["'%e%'", "'B%'", "'%r'", "'_o%'"])}",
            7 => 'p.picked '.
                $this->one(['<', '>=', '=']).
                ' DATE \'2026-0'.
                $this->random->getInt(2, 3).
                '-'.
                sprintf('%02d', $this->random->getInt(1, 28)).
                "'",
            8 => 'p.ripe',
            9, 10 => "({$this->condition($aliases, $depth + 1)} AND {$this->condition($aliases, $depth + 1)})",
            11, 12 => "({$this->condition($aliases, $depth + 1)} OR {$this->condition($aliases, $depth + 1)})",
            13 => "NOT ({$this->condition($aliases, $depth + 1)})",
            default => $this->subquery(),
        };
    }

    private function subquery(): string
    {
        return match ($this->random->getInt(0, 3)) {
            0 => 'p.variety '.
                ($this->chance(30) ? 'NOT ' : '').
                "IN (SELECT x.id FROM variety x WHERE x.price > {$this->random->getInt(1, 5)})",
            1 => ($this->chance(30) ? 'NOT ' : '').
                "EXISTS (SELECT 1 FROM bay x WHERE x.id = p.bay AND x.area > {$this->random->getInt(20, 200)})",
            2 => "p.kilos > (SELECT avg(x.kilos) FROM pick x WHERE x.bay = {$this->random->getInt(1, 8)})",
            default => 'p.kilos >= (SELECT avg(x.kilos) FROM pick x WHERE x.bay = p.bay)',
        };
    }

    /**
     * @param  list<string>  $aliases
     */
    private function where(array $aliases): string
    {
        return $this->chance(80)
            ? ' WHERE '.$this->condition($aliases).($this->chance(40) ? ' AND '.$this->condition($aliases) : '')
            : '';
    }

    private function plain(): string
    {
        [$from, $aliases] = $this->from();
        $items = ['p.id'];
        for ($i = $this->random->getInt(1, 3); $i > 0; $i--) {
            $items[] = $this->chance(70) ? $this->value($aliases) : $this->text($aliases);
        }
        $limit = $this->chance(30)
            ? ' LIMIT '.$this->random->getInt(1, 40).($this->chance(30) ? ' OFFSET '.$this->random->getInt(1, 20) : '')
            : '';

        return 'SELECT '.
            implode(', ', array_map(static fn (string $item, int $i): string => "{$item} AS x{$i}", $items, array_keys($items))).
            " FROM {$from}{$this->where($aliases)} ORDER BY ".
            implode(', ', range(1, count($items))).
            $limit;
    }

    private function grouped(): string
    {
        [$from, $aliases] = $this->from();
        $groups = [];
        for ($i = $this->random->getInt(0, 2); $i > 0; $i--) {
            $groups[] = match ($this->random->getInt(0, 3)) {
                0, 1 => $this->text($aliases),
                2 => $this->number($aliases),
                default => 'p.ripe',
            };
        }
        $groups = array_values(array_unique($groups));
        $items = $groups;
        for ($i = $this->random->getInt(1, 3); $i > 0; $i--) {
            $items[] = match ($this->random->getInt(0, 7)) {
                0 => 'count(*)',
                1 => "count({$this->number($aliases)})",
                2 => "sum({$this->value($aliases)})",
                3 => "avg({$this->number($aliases)})",
                4 => "min({$this->text($aliases)})",
                5 => "max({$this->value($aliases)})",
                6 => "count(DISTINCT {$this->number($aliases)})",
                default => "sum(CASE WHEN {$this->condition($aliases, 2)} THEN 1 ELSE 0 END)",
            };
        }
        $having = $this->chance(25) ? " HAVING count(*) > {$this->random->getInt(0, 30)}" : '';

        return 'SELECT '.
            implode(', ', array_map(static fn (string $item, int $i): string => "{$item} AS x{$i}", $items, array_keys($items))).
            " FROM {$from}{$this->where($aliases)}".
            ($groups === [] ? '' : ' GROUP BY '.implode(', ', $groups)).
            $having.
            ' ORDER BY '.
            implode(', ', range(1, count($items)));
    }

    private function setOperation(): string
    {
        $side = fn (): string => 'SELECT '.
            $this->one(['p.bay', 'p.variety', 'p.id % 9']).
            ', '.
            $this->one(['p.crew', 'NULL', "'x'"]).
            ' FROM pick p'.
            $this->where(['p']);

        return $side().' '.$this->one(['UNION', 'UNION ALL', 'INTERSECT', 'EXCEPT']).' '.$side().' ORDER BY 1, 2';
    }

    private function windowed(): string
    {
        $partition = $this->chance(60) ? "PARTITION BY {$this->one(['p.crew', 'p.bay', 'p.ripe'])} " : '';
        $function = $this->one([
            'row_number()',
            'rank()',
            'dense_rank()',
            'sum(p.bay)',
            'count(p.kilos)',
            'max(p.kilos)',
            'lag(p.bay)',
            'lead(p.kilos, 2)',
        ]);
        $order = str_contains($function, 'rank') ? $this->one(['p.picked', 'p.kilos']) : $this->one(['p.picked', 'p.kilos']).', p.id';

        return "SELECT p.id, {$function} OVER ({$partition}ORDER BY {$order}".
            ($this->chance(40) ? ' DESC' : '').
            ") AS w FROM pick p{$this->where(['p'])} ORDER BY p.id";
    }

    private function derived(): string
    {
        [$from, $aliases] = $this->from();

        return "SELECT t.g, t.n FROM (SELECT {$this->text($aliases)} AS g, count(*) AS n, sum({$this->number(
            $aliases,
        )}) AS s FROM {$from}{$this->where($aliases)} GROUP BY 1) t WHERE ".
            $this->one(["t.n > {$this->random->getInt(1, 40)}", 't.g IS NOT NULL', "t.g LIKE '%o%'", 't.s > 100']).
            ' ORDER BY 1, 2';
    }
}
