<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

/**
 * One lexical element. The texts of all tokens of a statement, joined, are the statement.
 */
final readonly class Token
{
    public function __construct(
        public TokenKind $kind,
        public string $text,
        /** Offset of the first byte in the statement. */
        public int $offset,
    ) {
    }
}
