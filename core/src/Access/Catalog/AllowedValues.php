<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Catalog;

use Fulcrion\Core\Access\Policy\Condition;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Sql\Ast;

/**
 * Which values of one column of a dimension somebody may see: what all scopes that apply give, put together.
 */
final readonly class AllowedValues
{
    /**
     * @param  array<string, true>  $values
     * @param  list<array{string, string}>  $ranges low and high, "" for an open end
     * @param  list<string>  $patterns
     * @param  list<string>  $scopes by which
     */
    public function __construct(
        public bool $everything,
        public array $values,
        public array $ranges,
        public array $patterns,
        public array $scopes,
    ) {
    }

    /**
     * @param  list<Item>  $scopes
     * @param  string|null  $column of the hierarchy, with which the column of the table is compared
     */
    public static function of(array $scopes, ?Hierarchy $hierarchy, ?string $column): self
    {
        $everything = false;
        $values = $ranges = $patterns = $names = [];
        foreach ($scopes as $scope) {
            $names[] = $scope->name;
            $everything = $everything || $scope->flag('everything');
            foreach ($scope->texts('values') as $value) {
                $values[$value] = true;
            }
            foreach ($scope->texts('ranges') as $range) {
                $at = (int) strpos($range, '..');
                $ranges[] = [substr($range, 0, $at), substr($range, $at + 2)];
            }
            array_push($patterns, ...$scope->texts('patterns'));
            foreach ($scope->texts('branches') as $branch) {
                foreach ($hierarchy?->branch($branch) ?? [] as $row) {
                    $value = $column === null ? $row->name : $row->values[$column] ?? null;
                    if ($value !== null) {
                        $values[$value] = true;
                    }
                }
            }
        }

        return new self($everything, $values, $ranges, $patterns, $names);
    }

    /** Whether both allow the same. */
    public function same(self $other): bool
    {
        return $this->everything === $other->everything &&
            array_diff_key($this->values, $other->values) === [] &&
            array_diff_key($other->values, $this->values) === [] &&
            $this->ranges === $other->ranges &&
            $this->patterns === $other->patterns;
    }

    public function has(string $value, ColumnType $type): bool
    {
        if ($this->everything || isset($this->values[$value])) {
            return true;
        }
        foreach ($this->ranges as [$low, $high]) {
            if (($low === '' || self::order($value, $low, $type) >= 0) && ($high === '' || self::order($value, $high, $type) <= 0)) {
                return true;
            }
        }
        foreach ($this->patterns as $pattern) {
            if (Condition::matches($value, $pattern)) {
                return true;
            }
        }

        return false;
    }

    public function hasRange(string $low, string $high, ColumnType $type): bool
    {
        if ($this->everything) {
            return true;
        }
        foreach ($this->ranges as [$a, $b]) {
            if (($a === '' || self::order($low, $a, $type) >= 0) && ($b === '' || self::order($high, $b, $type) <= 0)) {
                return true;
            }
        }
        if ($type->is(TypeKind::Bigint) && is_numeric($low) && is_numeric($high) && (int) $high - (int) $low < 1000) {
            for ($i = (int) $low; $i <= (int) $high; $i++) {
                if (! $this->has((string) $i, $type)) {
                    return false;
                }
            }

            return true;
        }

        return false;
    }

    private static function order(string $a, string $b, ColumnType $type): int
    {
        return $type->isNumber() && is_numeric($a) && is_numeric($b) ? (float) $a <=> (float) $b : strcmp($a, $b);
    }

    /** The rows with an allowed value. */
    public function predicate(string $column, ColumnType $type): Ast\Expression
    {
        $name = new Ast\ColumnName(0, [$column]);
        $parts = [];
        $list = [];
        $values = array_map(strval(...), array_keys($this->values));
        sort($values, SORT_NATURAL);
        foreach ($values as $value) {
            $literal = self::literal($value, $type);
            if ($literal !== null) {
                $list[] = $literal;
            }
        }
        if ($list !== []) {
            $parts[] = count($list) === 1 ? new Ast\Binary(0, '=', $name, $list[0]) : new Ast\InList(0, $name, $list, false);
        }
        foreach ($this->ranges as [$low, $high]) {
            [$from, $to] = [$low === '' ? null : self::literal($low, $type), $high === '' ? null : self::literal($high, $type)];
            if (($low !== '' && $from === null) || ($high !== '' && $to === null)) {
                continue;
            }
            $above = $from === null ? null : new Ast\Binary(0, '>=', $name, $from);
            $below = $to === null ? null : new Ast\Binary(0, '<=', $name, $to);
            if ($above !== null && $below !== null) {
                $parts[] = new Ast\Binary(0, 'AND', $above, $below);
            } elseif (($end = $above ?? $below) !== null) {
                $parts[] = $end;
            }
        }
        if ($type->is(TypeKind::Text)) {
            foreach ($this->patterns as $pattern) {
                $parts[] = new Ast\Like(0, $name, new Ast\TextLiteral(0, $pattern), null, false, false);
            }
        }
        if ($parts === []) {
            return new Ast\Binary(0, '=', new Ast\NumberLiteral(0, '1'), new Ast\NumberLiteral(0, '0'));
        }

        return array_reduce(
            array_slice($parts, 1),
            static fn (Ast\Expression $all, Ast\Expression $one): Ast\Expression => new Ast\Binary(0, 'OR', $all, $one),
            $parts[0],
        );
    }

    private static function literal(string $value, ColumnType $type): ?Ast\Expression
    {
        return match (true) {
            $type->isNumber() => is_numeric($value) ? new Ast\NumberLiteral(0, $value) : null,
            $type->is(TypeKind::Date) => strtotime($value) === false ? null : new Ast\TimeLiteral(0, false, substr($value, 0, 10)),
            $type->is(TypeKind::Timestamp) => strtotime($value) === false ? null : new Ast\TimeLiteral(0, true, $value),
            $type->is(TypeKind::Boolean) => new Ast\BooleanLiteral(0, in_array(strtolower($value), ['true', '1', 'yes'], true)),
            default => new Ast\TextLiteral(0, $value),
        };
    }

    /** In words, for a sentence. */
    public function show(): string
    {
        if ($this->everything) {
            return 'all values';
        }
        $parts = [];
        $values = array_map(strval(...), array_keys($this->values));
        sort($values, SORT_NATURAL);
        if ($values !== []) {
            $parts[] = implode(', ', array_slice($values, 0, 8)).(count($values) > 8 ? ' and '.(count($values) - 8).' more' : '');
        }
        foreach ($this->ranges as [$low, $high]) {
            $parts[] = ($low === '' ? 'up to ' : "{$low} to ").($high === '' ? 'any' : $high);
        }
        foreach ($this->patterns as $pattern) {
            $parts[] = "like {$pattern}";
        }

        return $parts === [] ? 'no value' : implode('; ', $parts);
    }
}
