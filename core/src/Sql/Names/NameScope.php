<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Names;

use Fulcrion\Core\Sql\Ast;

/**
 * What names of columns can mean at one place of a statement, and the place around it. The one resolver: whoever decides
 * on a statement and whoever runs it must understand the same by a name.
 *
 * @template T what stands for a column
 */
final readonly class NameScope
{
    /** @var list<array{string, array<string, list<T>>}> */
    private array $byName;

    /**
     * @param  list<array{string, list<array{string, T}>}>  $relations alias, its columns by name in their order
     * @param  NameScope<T>|null  $outer
     * @param  array<string, list<T>>  $merged columns two relations share through USING, by name in small letters
     */
    public function __construct(public array $relations = [], public ?self $outer = null, public array $merged = [])
    {
        $byName = [];
        foreach ($relations as [$alias, $columns]) {
            $named = [];
            foreach ($columns as [$name, $column]) {
                $named[strtolower($name)][] = $column;
            }
            $byName[] = [strtolower($alias), $named];
        }
        $this->byName = $byName;
    }

    /**
     * All a name can mean here, not further outside.
     *
     * @param  list<string>  $parts
     * @return list<T>
     */
    public function here(array $parts): array
    {
        $column = strtolower($parts[count($parts) - 1]);
        $qualifier = count($parts) > 1 ? strtolower($parts[count($parts) - 2]) : null;
        if ($qualifier === null && isset($this->merged[$column])) {
            return $this->merged[$column];
        }
        $found = [];
        foreach ($this->byName as [$alias, $columns]) {
            if ($qualifier === null || $alias === $qualifier) {
                array_push($found, ...$columns[$column] ?? []);
            }
        }

        return $found;
    }

    /**
     * All a name can mean at the next place outwards that knows it.
     *
     * @param  list<string>  $parts
     * @return list<T>
     */
    public function find(array $parts): array
    {
        for ($at = $this; $at !== null; $at = $at->outer) {
            $found = $at->here($parts);
            if ($found !== []) {
                return $found;
            }
        }

        return [];
    }

    /**
     * Columns a * stands for: of one relation, or of all; with those of USING once, in front.
     *
     * @param  list<string>  $qualifier
     * @return list<array{string, string, T}>|null alias ("" for merged ones), name, column; null when no relation is meant
     */
    public function star(array $qualifier): ?array
    {
        $wanted = $qualifier === [] ? null : strtolower($qualifier[count($qualifier) - 1]);
        $all = [];
        $known = $wanted === null && $this->relations !== [];
        foreach ($wanted === null ? $this->merged : [] as $name => $columns) {
            $all[] = ['', $name, $columns[0]];
        }
        foreach ($this->relations as [$alias, $columns]) {
            if ($wanted !== null && strtolower($alias) !== $wanted) {
                continue;
            }
            $known = true;
            foreach ($columns as [$name, $column]) {
                if ($wanted !== null || ! isset($this->merged[strtolower($name)])) {
                    $all[] = [$alias, $name, $column];
                }
            }
        }

        return $known ? $all : null;
    }

    /**
     * What GROUP BY means by an expression: an item of the list by its number, or by its alias where no column here has
     * that name; else the expression itself.
     *
     * @param  list<Ast\SelectItem>  $items
     */
    public function grouped(Ast\Expression $e, array $items): ?Ast\Expression
    {
        if ($e instanceof Ast\NumberLiteral && ctype_digit($e->text)) {
            return ($items[(int) $e->text - 1] ?? null)?->value;
        }
        if ($e instanceof Ast\ColumnName && count($e->parts) === 1 && $this->here($e->parts) === []) {
            foreach ($items as $item) {
                if ($item->alias !== null && strcasecmp($item->alias, $e->parts[0]) === 0) {
                    return $item->value;
                }
            }
        }

        return $e;
    }

    /**
     * Which column of the result ORDER BY means; null where it is an expression over the columns read.
     *
     * @param  list<string>  $names of the result's columns
     */
    public static function ordered(Ast\Expression $e, array $names): ?int
    {
        if ($e instanceof Ast\NumberLiteral && ctype_digit($e->text)) {
            return (int) $e->text - 1;
        }
        if ($e instanceof Ast\ColumnName && count($e->parts) === 1) {
            foreach ($names as $i => $name) {
                if (strcasecmp($name, $e->parts[0]) === 0) {
                    return $i;
                }
            }
        }

        return null;
    }
}
