<?php

declare(strict_types=1);

namespace Fulcrion\Core\Usage;

/**
 * Who belonged to which team when. Whoever changes takes nothing along into the past, and what belongs to nobody is a team of its own.
 */
final class TeamBook
{
    public const UNASSIGNED = 'unassigned';

    /** @var array<string, list<TeamMembership>> by login in small letters, the latest first */
    private array $byLogin = [];

    /**
     * @param  list<TeamMembership>  $memberships
     */
    public function __construct(array $memberships)
    {
        foreach ($memberships as $one) {
            $this->byLogin[mb_strtolower($one->login)][] = $one;
        }
        foreach ($this->byLogin as &$list) {
            usort($list, static fn (TeamMembership $a, TeamMembership $b): int => $b->from <=> $a->from);
        }
    }

    /**
     * The team on a day: the one they belonged to at its end, so that nothing of a day is counted twice.
     *
     * @param  int  $dayEnd Unix seconds
     */
    public function on(string $login, int $dayEnd): string
    {
        foreach ($this->byLogin[mb_strtolower($login)] ?? [] as $one) {
            if ($one->from < $dayEnd && ($one->to === null || $one->to >= $dayEnd)) {
                return $one->team === '' ? self::UNASSIGNED : $one->team;
            }
        }

        return self::UNASSIGNED;
    }
}
