<?php

declare(strict_types=1);

namespace App\Estate\Authorization;

/**
 * What is run in the place of a statement, and what its reader should know of it.
 */
final readonly class AuthorizedQuery
{
    /**
     * @param  list<string>  $notes
     * @param  bool  $careful whether a policy or a view stands between the statement and some of its rows: its errors must not tell of them
     * @param  list<string>  $veiled schema.table of what is read only in part: figures that count what was left out are not shown
     */
    public function __construct(
        public string $sql,
        public array $notes,
        public ?int $decision,
        public array $veiled = [],
        public bool $careful = false,
    ) {
    }
}
