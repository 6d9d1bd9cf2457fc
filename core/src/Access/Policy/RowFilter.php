<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

use Fulcrion\Core\Sql\Aggregates;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Sql\Tree;

/**
 * Which rows are left: an SQL predicate over the columns of a table, with person('region') for an attribute of the
 * reader. An attribute the reader does not have is NULL; one that is a list can stand inside IN (...).
 */
final readonly class RowFilter
{
    private function __construct(private Ast\Expression $tree)
    {
    }

    /**
     * @throws ConditionError
     */
    public static function parse(string $text): self
    {
        try {
            $tree = (new Parser())->expression($text);
        } catch (SyntaxError $error) {
            throw new ConditionError($error->getMessage());
        }
        foreach (Tree::nodes($tree) as $node) {
            if ($node instanceof Ast\Query) {
                throw new ConditionError(
                    'A filter looks at one row; it cannot hold another query. For a choice of values by a tree, use a value scope.',
                );
            }
            if ($node instanceof Ast\Parameter) {
                throw new ConditionError("A filter has no parameters; put a value in the place of {$node->text}, or person('...').");
            }
            if ($node instanceof Ast\Call && ($node->over !== null || Aggregates::is($node))) {
                throw new ConditionError("A filter looks at one row; {$node->name} looks at many.");
            }
            if (
                $node instanceof Ast\Call &&
                $node->name === 'person' &&
                ! (count($node->arguments) === 1 && $node->arguments[0] instanceof Ast\TextLiteral)
            ) {
                throw new ConditionError("Write person('region'), with the name of an attribute in quotes.");
            }
        }

        return new self($tree);
    }

    /**
     * @return list<string> columns of the row it looks at
     */
    public function columns(): array
    {
        $names = [];
        foreach (Tree::nodes($this->tree) as $node) {
            if ($node instanceof Ast\ColumnName) {
                $names[strtolower($node->parts[count($node->parts) - 1])] = true;
            }
        }

        return array_map(strval(...), array_keys($names));
    }

    /**
     * The same filter where its columns have other names.
     *
     * @param  array<string, string>  $names column => its name there; one it lacks keeps its own
     */
    public function renamed(array $names): self
    {
        return new self(
            self::expression(
                Tree::map(
                    $this->tree,
                    static fn (Ast\Node $node): ?Ast\Node => $node instanceof Ast\ColumnName
                        ? new Ast\ColumnName($node->at, [
                            $names[strtolower($node->parts[count($node->parts) - 1])] ?? $node->parts[count($node->parts) - 1],
                        ])
                        : null,
                ),
            ),
        );
    }

    /**
     * @return list<string> attributes of people it asks for
     */
    public function attributes(): array
    {
        $names = [];
        foreach (Tree::nodes($this->tree) as $node) {
            if ($node instanceof Ast\Call && $node->name === 'person' && $node->arguments[0] instanceof Ast\TextLiteral) {
                $names[] = $node->arguments[0]->value;
            }
        }

        return array_values(array_unique($names));
    }

    /**
     * The predicate for one reader.
     *
     * @param  array<string, bool|int|float|string|list<bool|int|float|string>>  $attributes
     *
     * @throws ConditionError
     */
    public function forReader(array $attributes): Ast\Expression
    {
        $literal = static fn (bool|int|float|string|null $value): Ast\Expression => match (true) {
            $value === null => new Ast\NullLiteral(0),
            is_bool($value) => new Ast\BooleanLiteral(0, $value),
            is_string($value) => new Ast\TextLiteral(0, $value),
            default => new Ast\NumberLiteral(0, (string) $value),
        };
        $filled = Tree::map(
            $this->tree,
            $fill = static function (Ast\Node $node) use ($attributes, $literal, &$fill): ?Ast\Node {
                if ($node instanceof Ast\InList) {
                    $items = [];
                    foreach ($node->items as $item) {
                        $name =
                            $item instanceof Ast\Call && $item->name === 'person' && $item->arguments[0] instanceof Ast\TextLiteral
                                ? $item->arguments[0]->value
                                : null;
                        $value = $name === null ? null : $attributes[$name] ?? null;
                        array_push(
                            $items,
                            ...$name !== null && is_array($value)
                                ? ($value === []
                                    ? [$literal(null)]
                                    : array_map($literal, $value))
                                : [self::expression(Tree::map($item, $fill))],
                        );
                    }

                    return new Ast\InList($node->at, self::expression(Tree::map($node->value, $fill)), $items, $node->negated);
                }
                if ($node instanceof Ast\Call && $node->name === 'person' && $node->arguments[0] instanceof Ast\TextLiteral) {
                    $value = $attributes[$node->arguments[0]->value] ?? null;
                    if (is_array($value)) {
                        throw new ConditionError(
                            "The attribute {$node->arguments[0]->value} is a list, which can only stand inside IN (...).",
                        );
                    }

                    return $literal($value);
                }

                return null;
            },
        );

        return self::expression($filled);
    }

    private static function expression(Ast\Node $node): Ast\Expression
    {
        assert($node instanceof Ast\Expression);

        return $node;
    }
}
