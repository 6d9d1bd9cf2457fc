<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Names\NameScope;

/**
 * Which values of which columns the conditions of a statement ask for.
 *
 * @internal
 */
final readonly class AskedValues
{
    /**
     * Notes it with the tables that are read. Only what all rows must meet counts: conditions joined by AND.
     *
     * @param  NameScope<SeenColumn>  $names
     */
    public static function note(Ast\Expression $e, NameScope $names): void
    {
        if ($e instanceof Ast\Binary && $e->operator === 'AND') {
            self::note($e->left, $names);
            self::note($e->right, $names);

            return;
        }
        [$of, $asked] = self::asked($e, $names);
        $read = $of?->read;
        if ($of !== null && $read !== null && $asked !== null && ! isset($read->asked[$of->base])) {
            // An empty list stands for values that are asked for but not known.
            $read->asked[$of->base] = $asked === [] ? null : $asked;
        }
    }

    /**
     * The column a condition is about, and the values it leaves of it.
     *
     * @param  NameScope<SeenColumn>  $names
     * @return array{SeenColumn|null, list<array{string, string|null}>|null} values or ranges; empty where they are not known,
     *     null where it asks for none
     */
    private static function asked(Ast\Expression $e, NameScope $names): array
    {
        if ($e instanceof Ast\Binary && $e->operator === 'OR') {
            // Either of two values is both, as long as they are of one column.
            [$a, $left] = self::asked($e->left, $names);
            [$b, $right] = self::asked($e->right, $names);
            $same = $a !== null && $b !== null && $a->read === $b->read && $a->base === $b->base && $left !== null && $right !== null;

            return $same ? [$a, $left === [] || $right === [] ? [] : [...$left, ...$right]] : [null, null];
        }
        $asked = null;
        $of = null;
        if ($e instanceof Ast\Binary && $e->operator === '=') {
            [$of, $other] = [self::column($e->left, $names), $e->right];
            if ($of === null) {
                [$of, $other] = [self::column($e->right, $names), $e->left];
            }
            $value = self::constant($other);
            $asked = $value === null ? ($other instanceof Ast\Parameter ? [] : null) : [[$value, null]];
        } elseif ($e instanceof Ast\InList && ! $e->negated) {
            $of = self::column($e->value, $names);
            $asked = self::listed($e->items);
        } elseif ($e instanceof Ast\Between && ! $e->negated) {
            $of = self::column($e->value, $names);
            [$low, $high] = [self::constant($e->low), self::constant($e->high)];
            $asked = $low === null || $high === null ? ($e->low instanceof Ast\Parameter ? [] : null) : [[$low, $high]];
        }

        return [$of, $asked];
    }

    /**
     * @param  list<Ast\Expression>  $items
     * @return list<array{string, null}>|null null where they are no constants
     */
    private static function listed(array $items): ?array
    {
        $values = [];
        foreach ($items as $item) {
            $value = self::constant($item);
            if ($value === null) {
                return array_filter($items, static fn (Ast\Expression $one): bool => $one instanceof Ast\Parameter) !== [] ? [] : null;
            }
            $values[] = [$value, null];
        }

        return $values;
    }

    /**
     * @param  NameScope<SeenColumn>  $names
     */
    private static function column(Ast\Expression $e, NameScope $names): ?SeenColumn
    {
        $found = $e instanceof Ast\ColumnName ? $names->here($e->parts) : [];

        return count($found) === 1 && $found[0]->read !== null ? $found[0] : null;
    }

    private static function constant(Ast\Expression $e): ?string
    {
        return match (true) {
            $e instanceof Ast\TextLiteral => $e->value,
            $e instanceof Ast\NumberLiteral, $e instanceof Ast\TimeLiteral => $e->text,
            $e instanceof Ast\Unary && $e->operator === '-' && $e->operand instanceof Ast\NumberLiteral => '-'.$e->operand->text,
            default => null,
        };
    }
}
