<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Instead;

/**
 * The same question asked in other words.
 */
final readonly class Suggestion
{
    public function __construct(
        /** Short name of the rewriting. */
        public string $id,
        public string $title,
        public string $why,
        public string $sql,
    ) {
    }
}
