<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Change;

/**
 * A statement as somebody has run it, often.
 */
final readonly class AskedQuery
{
    public function __construct(
        public string $statement,
        public string $sql,
        public string $cluster,
        public string $schema,
        public string $subject,
        public int $executions,
    ) {
    }
}
