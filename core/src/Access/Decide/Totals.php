<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Sql\Aggregates;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Names\NameScope;
use Fulcrion\Core\Sql\Tree;

/**
 * Whether a select only adds up: whoever may see a dimension in totals must not get at single rows by it. What stays
 * possible is to subtract one total from another.
 *
 * @internal
 */
final readonly class Totals
{
    /** Name of the column that tells rows apart where a join may repeat them. */
    public const MEMBER = 'row of the total';

    /** Setting of a policy: groups of fewer rows are left out. */
    public const SMALLEST = 'smallest group';

    public const USUAL = 5;

    /**
     * Why a select shows more of a table than totals; null when it does not.
     *
     * @param  NameScope<SeenColumn>  $names of the select
     */
    public static function shows(Ast\Select $s, NameScope $names, TableRead $read): ?string
    {
        $keys = array_fill_keys($read->access->table->keys, true);
        foreach ($s->groupBy as $e) {
            $meant = $names->grouped($e, $s->items) ?? $e;
            foreach (self::keysIn($meant, $names, $read, $keys) as $column) {
                return "{$column} has a value of its own in nearly every row, so grouping by it shows single rows";
            }
        }
        foreach (self::keysIn($s->where, $names, $read, $keys) as $column) {
            return "{$column} has a value of its own in nearly every row, so a condition on it picks single rows";
        }
        if ($s->windows !== [] || $s->qualify !== null || $s->grouping !== null) {
            return 'window functions and subtotals show more than totals';
        }
        $sums = 0;
        foreach (
            [
                ...array_map(static fn (Ast\SelectItem $item): Ast\Expression => $item->value, $s->items),
                ...$s->having === null ? [] : [$s->having],
            ] as $e
        ) {
            $calls = Aggregates::in($e);
            $sums += count($calls);
            foreach ($calls as $call) {
                $reason = self::reason($call);
                if ($reason !== null) {
                    return $reason;
                }
            }
            foreach (Tree::nodes($e) as $node) {
                if (($node instanceof Ast\Call && $node->over !== null) || $node instanceof Ast\Query) {
                    return 'window functions and subqueries among the columns show more than totals';
                }
            }
        }

        return $sums === 0 ? 'it groups without adding anything up, which lists the groups' : null;
    }

    private static function reason(Ast\Call $call): ?string
    {
        if (! in_array($call->name, Aggregates::SUMS, true)) {
            return "{$call->name}() shows a single value; count, sum, avg and spread add up";
        }
        if ($call->filter !== null) {
            return 'a condition inside of an aggregate picks rows out of the total; put it into WHERE';
        }
        foreach ($call->arguments as $argument) {
            foreach (Tree::nodes($argument) as $node) {
                $adds = $node instanceof Ast\Binary && in_array($node->operator, ['+', '-', '*'], true);
                if (! $adds && ! ($node instanceof Ast\ColumnName) && ! ($node instanceof Ast\NumberLiteral)
                    && ! ($node instanceof Ast\Star)) {
                    return 'only columns, and columns added or multiplied, can be added up; anything else could pick rows out of the total';
                }
            }
        }

        return null;
    }

    /**
     * @param  NameScope<SeenColumn>  $names
     * @param  array<string, true>  $keys
     * @return list<string> columns of a table that tell its rows apart, where an expression names them
     */
    private static function keysIn(?Ast\Expression $e, NameScope $names, TableRead $read, array $keys): array
    {
        $found = [];
        foreach ($e === null || $keys === [] ? [] : Tree::nodes($e) as $node) {
            foreach ($node instanceof Ast\ColumnName ? $names->here($node->parts) : [] as $column) {
                if ($column->read === $read && isset($keys[$column->base])) {
                    $found[] = $column->base;
                }
            }
        }

        return $found;
    }

    /** The condition that leaves out groups of few rows. */
    public static function enough(TableRead $read, int $smallest): Ast\Expression
    {
        $counted = $read->joined
            ? new Ast\Call(0, 'count', [new Ast\ColumnName(0, [$read->alias, self::MEMBER])], true)
            : new Ast\Call(0, 'count', [new Ast\Star(0, [])]);

        return new Ast\Binary(0, '>=', $counted, new Ast\NumberLiteral(0, (string) $smallest));
    }

    /** What tells the rows of a table apart. */
    public static function member(): Ast\SelectItem
    {
        return new Ast\SelectItem(0, new Ast\Call(0, 'row_number', [], false, null, new Ast\Over(0, [], [], null, null)), self::MEMBER);
    }
}
