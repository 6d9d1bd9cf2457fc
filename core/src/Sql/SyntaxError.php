<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use RuntimeException;

/**
 * SQL that cannot be read: where, what was expected there and what stands there instead.
 */
final class SyntaxError extends RuntimeException
{
    private function __construct(
        string $message,
        public readonly int $offset,
        /** From 1. */
        public readonly int $lineNumber,
        /** In characters, from 1. */
        public readonly int $column,
        /** The line with a mark under the place. */
        public readonly string $excerpt,
    ) {
        parent::__construct($message);
    }

    public static function at(string $sql, int $offset, string $problem): self
    {
        $before = substr($sql, 0, $offset);
        $lineNumber = substr_count($before, "\n") + 1;
        $start = $offset - strlen((string) strrchr("\n".$before, "\n")) + 1;
        $lead = substr($sql, $start, $offset - $start);
        $line = $lead.strtok(substr($sql, $offset)."\n", "\n");
        if (str_starts_with(substr($sql, $offset), "\n")) {
            $line = $lead;
        }
        // A line of thousands of characters would hide the place it is to show.
        $shift = max(0, mb_strlen($lead) - 60);
        $shown = mb_substr($line, $shift, 120);
        $excerpt = $shown."\n".str_repeat(' ', mb_strlen($lead) - $shift).'^';
        $column = mb_strlen($lead) + 1;

        return new self("Line {$lineNumber}, column {$column}: {$problem}.", $offset, $lineNumber, $column, $excerpt);
    }
}
