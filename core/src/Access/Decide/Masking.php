<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\MaskKind;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Sql\Tree;

/**
 * Masks as SQL. The type of a column stays what it is; a mask that makes no sense for a type shows nothing at all.
 */
final readonly class Masking
{
    /** What stands for a text of which nothing is shown. */
    public const BLANK = '***';

    private Printer $printer;

    /**
     * @param  string|null  $key of keyed hashes on engines without keyed_hash(); a literal of that text stands in the SQL
     */
    public function __construct(private Dialect $dialect = Dialect::Ansi, private ?string $key = null)
    {
        $this->printer = new Printer($dialect);
    }

    public static function kind(Item $mask): MaskKind
    {
        return MaskKind::tryFrom($mask->text('shows')) ?? MaskKind::Nothing;
    }

    /** Of two masks the one that shows less. */
    public static function stricter(Item $a, Item $b): Item
    {
        $order = self::strictness($a) <=> self::strictness($b);

        return ($order === 0 ? strcmp($a->name, $b->name) : $order) >= 0 ? $a : $b;
    }

    /**
     * @return array{int, float}
     */
    private static function strictness(Item $mask): array
    {
        $kind = self::kind($mask);

        return [
            $kind->rank(),
            match ($kind) {
                MaskKind::First, MaskKind::Last => -(float) $mask->count('count'),
                MaskKind::Rounded => is_numeric($mask->text('step'))
                    ? (float) $mask->text('step')
                    : (float) ['month' => 1, 'quarter' => 2, 'year' => 3][$mask->text('step', 'month')],
                default => 0.0,
            },
        ];
    }

    /** The mask that leaves nothing. */
    public static function nothing(): Item
    {
        $mask = Item::of(Kind::Masks, 'nothing is shown', ['shows' => MaskKind::Nothing->value]);
        assert($mask instanceof Item);

        return $mask;
    }

    public static function words(Item $mask): string
    {
        $kind = self::kind($mask);

        return match ($kind) {
            MaskKind::First, MaskKind::Last => ($kind === MaskKind::First ? 'first ' : 'last ').
                ($mask->count('count') === 1 ? 'character' : $mask->count('count').' characters'),
            MaskKind::Rounded => "rounded to {$mask->text('step', 'month')}",
            MaskKind::Fixed => "always \"{$mask->text('text')}\"",
            MaskKind::Expression => $mask->text('text'),
            default => $kind->value,
        };
    }

    /**
     * @throws ConditionError when the mask's own expression cannot be read
     * @throws SyntaxError
     */
    public function of(Item $mask, string $column, ColumnType $type): Ast\Expression
    {
        $name = $this->printer->name($column);
        if (self::kind($mask) === MaskKind::Expression) {
            return new Ast\Cast(0, $this->filled($mask, $column), $this->typeName($type));
        }
        $sql = $this->sql($mask, $name, $type);
        if ($sql === $name) {
            return new Ast\ColumnName(0, [$column]);
        }
        try {
            return (new Parser($this->dialect))->expression($sql);
        } catch (SyntaxError $error) {
            throw new ConditionError("The mask {$mask->name} cannot be read: ".$error->getMessage());
        }
    }

    /**
     * @throws ConditionError
     */
    public static function check(Item $mask): void
    {
        if (self::kind($mask) === MaskKind::Expression) {
            try {
                $tree = (new Parser())->expression($mask->text('text'));
            } catch (SyntaxError $error) {
                throw new ConditionError($error->getMessage());
            }
            foreach (Tree::nodes($tree) as $node) {
                if ($node instanceof Ast\Query) {
                    throw new ConditionError('A mask looks at one value; it cannot hold a query.');
                }
                if ($node instanceof Ast\ColumnName && strtolower(implode('.', $node->parts)) !== 'value') {
                    throw new ConditionError(implode('.', $node->parts).' is not known in a mask; the column is called value.');
                }
            }
        }
        if (in_array(self::kind($mask), [MaskKind::Fixed, MaskKind::Expression], true) && $mask->text('text') === '') {
            throw new ConditionError('The field text is empty.');
        }
        if (
            self::kind($mask) === MaskKind::Rounded &&
            ! is_numeric($mask->text('step', 'month')) &&
            ! in_array($mask->text('step', 'month'), ['month', 'quarter', 'year'], true)
        ) {
            throw new ConditionError("\"{$mask->text('step')}\" is no step; write a number, or month, quarter or year.");
        }
        if (is_numeric($mask->text('step')) && (float) $mask->text('step') <= 0) {
            throw new ConditionError('A step must be more than 0.');
        }
    }

    private function sql(Item $mask, string $name, ColumnType $type): string
    {
        $text = $type->is(TypeKind::Text);
        $day = $type->is(TypeKind::Date, TypeKind::Timestamp);
        $nothing = $text ? $this->printer->text(self::BLANK) : $this->cast('NULL', $type);

        return match (self::kind($mask)) {
            MaskKind::Whole => $name,
            MaskKind::Rounded => $day && ! is_numeric($mask->text('step', 'month'))
                ? $this->since($mask->text('step', 'month'), $name, $type)
                : ($type->isNumber() && is_numeric($mask->text('step', 'x'))
                    ? $this->cast("floor({$name} / {$mask->text('step')}) * {$mask->text('step')}", $type)
                    : $nothing),
            MaskKind::Year => $day ? $this->since('year', $name, $type) : $nothing,
            MaskKind::EmailDomain => $text
                ? "CASE WHEN locate('@', {$name}) > 0 THEN concat('***', substring({$name}, locate('@', {$name}))) ELSE '***' END"
                : $nothing,
            MaskKind::Last => $text
                ? "CASE WHEN char_length({$name}) > {$mask->count('count')} THEN concat('***', right({$name}, {$mask->count(
                    'count',
                )})) ELSE '***' END"
                : $nothing,
            MaskKind::First => $text
                ? "CASE WHEN char_length({$name}) > {$mask->count('count')} THEN concat(left({$name}, {$mask->count(
                    'count',
                )}), '***') ELSE '***' END"
                : $nothing,
            MaskKind::Hash => $this->hash($name, $type) ?? $nothing,
            // Put together as a tree in of().
            MaskKind::Expression => $nothing,
            MaskKind::Fixed => match (true) {
                $text => $this->printer->text($mask->text('text')),
                $type->isNumber() && is_numeric($mask->text('text')),
                $day && preg_match('~^\d{4}-\d\d-\d\d~',
                    $mask->text('text')) === 1 => $this->cast($this->printer->text($mask->text('text')), $type),
                default => $nothing,
            },
            MaskKind::Nothing => $nothing,
        };
    }

    /**
     * @throws ConditionError
     */
    private function filled(Item $mask, string $column): Ast\Expression
    {
        try {
            $value = (new Parser())->expression($mask->text('text'));
            $tree = Tree::map(
                $value,
                static fn (Ast\Node $node): ?Ast\Node => $node instanceof Ast\ColumnName ? new Ast\ColumnName(0, [$column]) : null,
            );
        } catch (SyntaxError $error) {
            throw new ConditionError("The mask {$mask->name} cannot be read: ".$error->getMessage());
        }
        assert($tree instanceof Ast\Expression);

        return $tree;
    }

    /**
     * A NULL of a type.
     *
     * @throws SyntaxError
     */
    public function none(ColumnType $type): Ast\Expression
    {
        return new Ast\Cast(0, new Ast\NullLiteral(0), $this->typeName($type));
    }

    /**
     * @throws SyntaxError
     */
    private function typeName(ColumnType $type): Ast\TypeName
    {
        $cast = (new Parser($this->dialect))->expression($this->cast('NULL', $type));
        assert($cast instanceof Ast\Cast);

        return $cast->type;
    }

    /** Still joins: equal values have equal hashes, and who lacks the key cannot try values out. */
    private function hash(string $name, ColumnType $type): ?string
    {
        if (! $type->is(TypeKind::Text, TypeKind::Bigint)) {
            return null;
        }
        if ($this->key === null) {
            return "keyed_hash({$name})";
        }
        $hash = 'sha2(concat('.$this->printer->text($this->key).", {$name}), 256)";

        return $type->is(TypeKind::Text) ? "left({$hash}, 24)" : "CAST(conv(left({$hash}, 15), 16, 10) AS SIGNED)";
    }

    private function since(string $unit, string $name, ColumnType $type): string
    {
        if ($this->dialect === Dialect::Ansi) {
            return $this->cast("date_trunc('{$unit}', {$name})", $type);
        }

        return $this->cast(
            match ($unit) {
                'year' => "date_format({$name}, '%Y-01-01')",
                'quarter' => "concat(year({$name}), '-', lpad(quarter({$name}) * 3 - 2, 2, '0'), '-01')",
                default => "date_format({$name}, '%Y-%m-01')",
            },
            $type,
        );
    }

    private function cast(string $value, ColumnType $type): string
    {
        if ($this->dialect === Dialect::Ansi) {
            return "CAST({$value} AS {$type})";
        }

        return "CAST({$value} AS ".
            match ($type->kind) {
                TypeKind::Bigint, TypeKind::Boolean => 'SIGNED',
                TypeKind::Decimal => "DECIMAL({$type->precision}, {$type->scale})",
                TypeKind::Double => 'DOUBLE',
                TypeKind::Date => 'DATE',
                TypeKind::Timestamp => 'DATETIME(6)',
                TypeKind::Text => 'CHAR',
            }.
            ')';
    }
}
