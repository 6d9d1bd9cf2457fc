<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

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
}
