<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Sql\Tree;

/**
 * When a rule holds: an SQL expression over the labels of an object and the attributes of a person. A label that is not
 * there is NULL and counts as not holding, as in WHERE. An attribute the person does not have leaves a comparison
 * undecided, and what stays undecided holds: every rule takes something away, and nobody should see more for being
 * described less. What cannot be compared is an error, and a rule in error closes what it is about.
 *
 * The terms follow NIST SP 800-162: attributes of the subject, of the object, and a policy over both.
 */
final readonly class Condition
{
    /** function => least and most arguments, what it gives */
    public const FUNCTIONS = [
        'label' => [1, 1, "label('personal'): the value of that key on the column, or on the table where the table is meant"],
        'labelled' => [1, 1, "labelled('personal'): whether it carries that very key"],
        'labelled_below' => [1, 1, "labelled_below('personal'): whether it carries that key or one below, as personal/phone"],
        'table_label' => [1, 1, "table_label('domain'): the value on the table"],
        'table_labelled' => [1, 1, "table_labelled('retired'): whether the table carries that very key"],
        'table_labelled_below' => [1, 1, "table_labelled_below('personal'): whether the table carries that key or one below"],
        'column_labelled_below' => [
            1,
            1,
            "column_labelled_below('personal'): whether any column of the table carries that key or one below",
        ],
        'person' => [1, 1, "person('region'): an attribute of the person"],
        'person_has' => [2, 2, "person_has('team', 'packhouse'): whether an attribute is that value or a list with it"],
        'has_role' => [1, 1, "has_role('agronomy'): whether the person holds the role, directly or through another"],
    ];

    /** Truth of what depends on an attribute the person does not have. */
    private const UNDECIDED = 2;

    /** Stands for such an attribute. */
    private const MISSING = "\0missing";

    private const OPERATORS = ['AND', 'OR', '=', '<>', '<', '<=', '>', '>='];

    /** What a condition may be made of beside calls and names, which have checks of their own. */
    private const PARTS = [
        Ast\Binary::class,
        Ast\Unary::class,
        Ast\InList::class,
        Ast\Like::class,
        Ast\Between::class,
        Ast\IsTest::class,
        Ast\TextLiteral::class,
        Ast\NumberLiteral::class,
        Ast\BooleanLiteral::class,
        Ast\NullLiteral::class,
    ];

    private function __construct(public string $text, private ?Ast\Expression $tree)
    {
    }

    /**
     * @throws ConditionError
     */
    public static function parse(string $text): self
    {
        if (trim($text) === '') {
            return new self('', null);
        }
        try {
            $tree = (new Parser())->expression($text);
        } catch (SyntaxError $error) {
            throw new ConditionError($error->getMessage());
        }
        self::check($tree);

        return new self($text, $tree);
    }

    /**
     * @return list<string> keys of labels it asks for
     *
     * @throws ConditionError
     */
    public function keys(): array
    {
        $keys = [];
        foreach (Tree::nodes($this->tree) as $node) {
            if ($node instanceof Ast\Call && ! in_array($node->name, ['person', 'person_has', 'has_role'], true)) {
                $keys[] = self::constant($node, 0);
            }
        }

        return array_values(array_unique($keys));
    }

    /**
     * @return list<string> attributes of people it asks for
     *
     * @throws ConditionError
     */
    public function attributes(): array
    {
        $names = [];
        foreach (Tree::nodes($this->tree) as $node) {
            if ($node instanceof Ast\Call && in_array($node->name, ['person', 'person_has'], true)) {
                $names[] = self::constant($node, 0);
            }
        }

        return array_values(array_unique($names));
    }

    /** Whether it asks for labels of the table beside those of the column. */
    public function asksTable(): bool
    {
        foreach (Tree::nodes($this->tree) as $node) {
            if (
                $node instanceof Ast\Call &&
                in_array($node->name, ['table_label', 'table_labelled', 'table_labelled_below', 'column_labelled_below'], true)
            ) {
                return true;
            }
        }

        return false;
    }

    /** Whether the answer is the same for all people. */
    public function ignoresPeople(): bool
    {
        foreach (Tree::nodes($this->tree) as $node) {
            if ($node instanceof Ast\Call && in_array($node->name, ['person', 'person_has', 'has_role'], true)) {
                return false;
            }
        }

        return true;
    }

    /**
     * @param  array<string, string>  $labels of the column, or of the table where the table is meant
     * @param  array<string, string>  $tableLabels
     * @param  array<string, true>  $columnKeys keys on any column of the table
     * @param  array<string, bool|int|float|string|list<bool|int|float|string>>  $attributes
     * @param  array<string, mixed>  $roles held, by name; null where directly
     *
     * @throws ConditionError
     */
    public function holds(array $labels, array $tableLabels, array $columnKeys, array $attributes, array $roles): bool
    {
        if ($this->tree === null) {
            return true;
        }

        return in_array(
            self::truth(self::value($this->tree, [$labels, $tableLabels, $columnKeys, $attributes, $roles])),
            [true, self::UNDECIDED],
            true,
        );
    }

    /**
     * @throws ConditionError
     */
    private static function known(Ast\Call $call): void
    {
        $known =
            self::FUNCTIONS[$call->name] ??
            throw new ConditionError(
                isset(FormerConditions::NAMES[$call->name])
                    ? "{$call->name} is now written ".
                        FormerConditions::NAMES[$call->name].
                        ': '.
                        self::FUNCTIONS[FormerConditions::NAMES[$call->name]][2].
                        '.'
                    : "There is no function {$call->name} in conditions; there are ".
                        implode(', ', array_keys(self::FUNCTIONS)).
                        '.',
            );
        if (count($call->arguments) < $known[0] || count($call->arguments) > $known[1]) {
            throw new ConditionError(
                "{$call->name} takes ".($known[1] === 1 ? 'one text' : "{$known[1]} texts").": {$known[2]}.",
            );
        }
        foreach (array_keys($call->arguments) as $i) {
            self::constant($call, $i);
        }
    }

    /**
     * @throws ConditionError
     */
    private static function check(Ast\Expression $tree): void
    {
        foreach (Tree::nodes($tree) as $node) {
            if ($node instanceof Ast\Call) {
                self::known($node);
            } elseif ($node instanceof Ast\ColumnName) {
                throw new ConditionError(
                    implode('.', $node->parts).
                        " is no label and no attribute; write label('".
                        implode('.', $node->parts).
                        "') or person('".
                        implode('.', $node->parts).
                        "').",
                );
            } elseif ($node instanceof Ast\Binary && ! in_array($node->operator, self::OPERATORS, true)) {
                throw new ConditionError(
                    "The operator {$node->operator} cannot be used in conditions; there are ".
                        implode(' ', self::OPERATORS).
                        ', NOT, IN, LIKE, BETWEEN and IS NULL.',
                );
            } elseif ($node instanceof Ast\Expression && ! in_array($node::class, self::PARTS, true)) {
                throw new ConditionError('Only comparisons of labels, attributes, texts and numbers can stand in a condition.');
            }
        }
        if (
            $tree instanceof Ast\TextLiteral ||
            $tree instanceof Ast\NumberLiteral ||
            ($tree instanceof Ast\Call && in_array($tree->name, ['label', 'table_label', 'person'], true))
        ) {
            throw new ConditionError('This is a value and not a condition; compare it with something.');
        }
    }

    /**
     * @throws ConditionError
     */
    private static function constant(Ast\Call $call, int $i): string
    {
        $argument = $call->arguments[$i] ?? null;

        return $argument instanceof Ast\TextLiteral
            ? $argument->value
            : throw new ConditionError("{$call->name} takes texts in quotes: ".self::FUNCTIONS[$call->name][2].'.');
    }

    /**
     * @param  array{array<string, string>, array<string, string>, array<string, true>, array<string,
     *     bool|int|float|string|list<bool|int|float|string>>, array<string, mixed>}  $world
     * @return bool|int|float|string|list<bool|int|float|string>|null
     *
     * @throws ConditionError
     */
    private static function value(Ast\Expression $e, array $world): bool|int|float|string|array|null
    {
        return match (true) {
            $e instanceof Ast\TextLiteral => $e->value,
            $e instanceof Ast\NumberLiteral => (float) $e->text,
            $e instanceof Ast\BooleanLiteral => $e->value,
            $e instanceof Ast\NullLiteral => null,
            $e instanceof Ast\Call => self::call($e, $world),
            $e instanceof Ast\Binary => self::binary($e, $world),
            $e instanceof Ast\Unary => self::unary($e, $world),
            $e instanceof Ast\InList => self::negate(self::in($e, $world), $e->negated),
            $e instanceof Ast\Like => self::negate(
                self::like(self::value($e->value, $world), self::value($e->pattern, $world)),
                $e->negated,
            ),
            $e instanceof Ast\Between => self::negate(
                self::both(
                    self::compare('>=', self::value($e->value, $world), self::value($e->low, $world)),
                    self::compare('<=', self::value($e->value, $world), self::value($e->high, $world)),
                ),
                $e->negated,
            ),
            $e instanceof Ast\IsTest => self::isTest($e, $world),
            default => throw new ConditionError('This cannot be evaluated.'),
        };
    }

    /**
     * @param  array{array<string, string>, array<string, string>, array<string, true>, array<string,
     *     bool|int|float|string|list<bool|int|float|string>>, array<string, mixed>}  $world
     * @return bool|int|float|string|list<bool|int|float|string>|null
     *
     * @throws ConditionError
     */
    private static function call(Ast\Call $e, array $world): bool|int|float|string|array|null
    {
        [$labels, $tableLabels, $columnKeys, $attributes, $roles] = $world;
        $name = self::constant($e, 0);

        return match ($e->name) {
            'label' => $labels[$name] ?? null,
            'labelled' => isset($labels[$name]),
            'labelled_below' => self::below($labels, $name),
            'table_label' => $tableLabels[$name] ?? null,
            'table_labelled' => isset($tableLabels[$name]),
            'table_labelled_below' => self::below($tableLabels, $name),
            'column_labelled_below' => self::below($columnKeys, $name),
            'person' => $attributes[$name] ?? self::MISSING,
            'person_has' => self::hasValue($attributes[$name] ?? [], self::constant($e, 1)),
            // Of a role that is held directly nothing is kept but its name.
            default => array_key_exists($name, $roles),
        };
    }

    /**
     * @param  bool|int|float|string|list<bool|int|float|string>  $attribute
     */
    private static function hasValue(bool|int|float|string|array $attribute, string $value): bool
    {
        foreach (is_array($attribute) ? $attribute : [$attribute] as $one) {
            if ((is_bool($one) ? ($one ? 'true' : 'false') : (string) $one) === $value) {
                return true;
            }
        }

        return false;
    }

    /**
     * @param  array<string, mixed>  $keys
     */
    private static function below(array $keys, string $key): bool
    {
        if (isset($keys[$key])) {
            return true;
        }
        foreach ($keys as $one => $_) {
            if (str_starts_with((string) $one, "{$key}/")) {
                return true;
            }
        }

        return false;
    }

    /**
     * @param  array{array<string, string>, array<string, string>, array<string, true>, array<string,
     *     bool|int|float|string|list<bool|int|float|string>>, array<string, mixed>}  $world
     *
     * @throws ConditionError
     */
    private static function binary(Ast\Binary $e, array $world): bool|int|null
    {
        $left = self::value($e->left, $world);
        if ($e->operator === 'AND') {
            return self::both(self::truth($left), self::truth(self::value($e->right, $world)));
        }
        if ($e->operator === 'OR') {
            return self::either(self::truth($left), self::truth(self::value($e->right, $world)));
        }

        return self::compare($e->operator, $left, self::value($e->right, $world));
    }

    /**
     * @param  array{array<string, string>, array<string, string>, array<string, true>, array<string,
     *     bool|int|float|string|list<bool|int|float|string>>, array<string, mixed>}  $world
     *
     * @throws ConditionError
     */
    private static function unary(Ast\Unary $e, array $world): bool|int|float|null
    {
        $value = self::value($e->operand, $world);
        if ($e->operator === 'NOT') {
            return self::negate(self::truth($value), true);
        }

        return is_numeric($value)
            ? ($e->operator === '-'
                ? -(float) $value
                : (float) $value)
            : throw new ConditionError("The sign {$e->operator} needs a number behind it.");
    }

    /**
     * @param  array{array<string, string>, array<string, string>, array<string, true>, array<string,
     *     bool|int|float|string|list<bool|int|float|string>>, array<string, mixed>}  $world
     *
     * @throws ConditionError
     */
    private static function in(Ast\InList $e, array $world): bool|int|null
    {
        $value = self::value($e->value, $world);
        $any = false;
        foreach ($e->items as $item) {
            $other = self::value($item, $world);
            foreach (is_array($other) ? $other : [$other] as $one) {
                $any = self::either($any, self::compare('=', $value, $one));
            }
        }

        return $any;
    }

    /**
     * @param  bool|int|float|string|list<bool|int|float|string>|null  $value
     * @param  bool|int|float|string|list<bool|int|float|string>|null  $pattern
     *
     * @throws ConditionError
     */
    private static function like(bool|int|float|string|array|null $value, bool|int|float|string|array|null $pattern): bool|int|null
    {
        if ($value === null || $pattern === null) {
            return null;
        }
        if ($value === self::MISSING || $pattern === self::MISSING) {
            return self::UNDECIDED;
        }
        if (is_array($value) || is_array($pattern)) {
            throw new ConditionError('LIKE compares one text with one pattern, and here is a list.');
        }

        return self::matches((string) $value, (string) $pattern);
    }

    /** As LIKE does: % for any text, _ for one character. */
    public static function matches(string $value, string $pattern): bool
    {
        return preg_match('~^'.strtr(preg_quote($pattern, '~'), ['%' => '.*', '_' => '.']).'$~su', $value) === 1;
    }

    /**
     * @param  array{array<string, string>, array<string, string>, array<string, true>, array<string,
     *     bool|int|float|string|list<bool|int|float|string>>, array<string, mixed>}  $world
     *
     * @throws ConditionError
     */
    private static function isTest(Ast\IsTest $e, array $world): bool
    {
        $value = self::value($e->value, $world);
        $holds = $e->what === null ? $value === null || $value === self::MISSING : self::truth($value) === $e->what;

        return $holds !== $e->negated;
    }

    /**
     * @param  bool|int|float|string|list<bool|int|float|string>|null  $left
     * @param  bool|int|float|string|list<bool|int|float|string>|null  $right
     *
     * @throws ConditionError
     */
    private static function compare(
        string $operator,
        bool|int|float|string|array|null $left,
        bool|int|float|string|array|null $right,
    ): bool|int|null {
        if ($left === null || $right === null) {
            return null;
        }
        if ($left === self::MISSING || $right === self::MISSING) {
            return self::UNDECIDED;
        }
        if (is_array($left) || is_array($right)) {
            throw new ConditionError("A list cannot be compared by {$operator}; use person_has(...) or IN (...).");
        }
        $number = static fn (bool|int|float|string $side): bool => is_int($side) || is_float($side);
        if ($number($left) || $number($right)) {
            if (! is_numeric($left) || ! is_numeric($right)) {
                throw new ConditionError(
                    '"'.
                        (is_bool($left) ? 'true' : $left).
                        '" and "'.
                        (is_bool($right) ? 'true' : $right).
                        '" cannot be compared: one is a number, the other is none.',
                );
            }
            $order = (float) $left <=> (float) $right;
        } else {
            $order = strcmp(
                is_bool($left) ? ($left ? 'true' : 'false') : (string) $left,
                is_bool($right) ? ($right ? 'true' : 'false') : (string) $right,
            );
        }

        return match ($operator) {
            '=' => $order === 0,
            '<>' => $order !== 0,
            '<' => $order < 0,
            '<=' => $order <= 0,
            '>' => $order > 0,
            default => $order >= 0,
        };
    }

    /**
     * @param  bool|int|float|string|list<bool|int|float|string>|null  $value
     *
     * @throws ConditionError
     */
    private static function truth(bool|int|float|string|array|null $value): bool|int|null
    {
        return match (true) {
            is_bool($value), $value === null, $value === self::UNDECIDED => $value,
            $value === self::MISSING => self::UNDECIDED,
            $value === 'true' => true,
            $value === 'false' => false,
            default => throw new ConditionError((is_array($value) ? 'A list' : "\"{$value}\"").' is neither true nor false.'),
        };
    }

    /** AND: false wins, then what is unknown for want of a label, then what is undecided for want of an attribute. */
    private static function both(bool|int|null $left, bool|int|null $right): bool|int|null
    {
        foreach ([false, null, self::UNDECIDED] as $wins) {
            if ($left === $wins || $right === $wins) {
                return $wins;
            }
        }

        return true;
    }

    /** OR: true wins, then what is undecided, then what is unknown. */
    private static function either(bool|int|null $left, bool|int|null $right): bool|int|null
    {
        foreach ([true, self::UNDECIDED, null] as $wins) {
            if ($left === $wins || $right === $wins) {
                return $wins;
            }
        }

        return false;
    }

    private static function negate(bool|int|null $value, bool $negated): bool|int|null
    {
        return is_bool($value) ? $value !== $negated : $value;
    }
}
