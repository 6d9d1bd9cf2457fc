<?php

declare(strict_types=1);

namespace Fulcrion\Core\Usage;

/**
 * The team somebody belongs to for a time.
 */
final readonly class TeamMembership
{
    /**
     * @param  string  $login name a person or service account is known by to the servers
     * @param  int  $from Unix seconds; 0 where nothing earlier is known
     * @param  int|null  $to its end; null where it goes on
     */
    public function __construct(public string $login, public string $team, public int $from, public ?int $to)
    {
    }
}
