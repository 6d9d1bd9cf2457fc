<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use Closure;
use Fulcrion\Core\Sql\Ast\Node;
use Generator;

/**
 * Walks syntax trees.
 */
final readonly class Tree
{
    /**
     * A node and all below it, each before what is inside of it, in the order of the text.
     *
     * @return Generator<int, Node>
     */
    public static function nodes(mixed $part): Generator
    {
        if ($part instanceof Node) {
            yield $part;
        }
        if (is_array($part) || $part instanceof Node) {
            foreach (is_array($part) ? $part : get_object_vars($part) as $inner) {
                foreach (self::nodes($inner) as $node) {
                    yield $node;
                }
            }
        }
    }

    /**
     * The tree with other nodes in the place of some. What replaces a node is kept as it is.
     *
     * @param  Closure(Node): (Node|null)  $other null to look inside of the node
     */
    public static function map(Node $node, Closure $other): Node
    {
        $replaced = $other($node);
        if ($replaced !== null) {
            return $replaced;
        }
        $values = [];
        $changed = false;
        foreach (get_object_vars($node) as $name => $value) {
            $values[$name] = self::mapped($value, $other);
            $changed = $changed || $values[$name] !== $value;
        }

        return $changed ? new ($node::class)(...$values) : $node;
    }

    /**
     * @param  Closure(Node): (Node|null)  $other
     */
    private static function mapped(mixed $value, Closure $other): mixed
    {
        if ($value instanceof Node) {
            return self::map($value, $other);
        }

        return is_array($value) ? array_map(static fn (mixed $one): mixed => self::mapped($one, $other), $value) : $value;
    }
}
