<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Sql;

/**
 * Who runs statements, where names without schema are looked up, and what time it is for them.
 */
final readonly class Session
{
    /**
     * @param  array<string, int>  $versions directory of a table => version that is read, where it is not the current one
     * @param  bool  $careful whether rows that joins leave out must not be told of by errors, as where a policy narrowed tables
     */
    public function __construct(
        public string $schema = '',
        public string $user = '',
        public int $nowUs = 0,
        public bool $careful = false,
        public array $versions = [],
    ) {
    }
}
