<?php

declare(strict_types=1);

namespace Fulcrion\StandIn\Sql;

/**
 * Who runs statements, where names without schema are looked up, and what time it is for them.
 */
final readonly class Session
{
    public function __construct(public string $schema = '', public string $user = '', public int $nowUs = 0)
    {
    }
}
