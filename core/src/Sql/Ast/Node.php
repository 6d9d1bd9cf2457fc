<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * Part of a syntax tree. Trees are values: compared with ==, changed by building a new one.
 */
abstract readonly class Node
{
    public function __construct(
        /** Offset of the first byte in the text it was read from. */
        public int $at,
    ) {
    }
}
