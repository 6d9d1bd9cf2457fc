<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Access\Models\PolicyVersion;
use App\Estate\Teams\TeamDirectory;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Usage\TeamMembership;

/**
 * Teams as the published policy says them, version by version: the attribute "team" of each person and service account. How it was before
 * the first version nobody wrote down, so that one holds for the time before as well.
 */
final readonly class PublishedTeams implements TeamDirectory
{
    public function __construct(private PolicyStore $store)
    {
    }

    public function memberships(): array
    {
        $memberships = $open = [];
        $isFirst = true;
        foreach (PolicyVersion::query()->orderBy('number')->pluck('made_us', 'number') as $number => $madeUs) {
            $at = intdiv((int) $madeUs, 1_000_000);
            $teams = $this->teams((int) $number);
            foreach ($open as $login => [$team, $from]) {
                if (($teams[$login] ?? null) !== $team) {
                    $memberships[] = new TeamMembership((string) $login, $team, $from, $at);
                    unset($open[$login]);
                }
            }
            foreach ($teams as $login => $team) {
                $open[$login] ??= [$team, $isFirst ? 0 : $at];
            }
            $isFirst = false;
        }
        foreach ($open as $login => [$team, $from]) {
            $memberships[] = new TeamMembership((string) $login, $team, $from, null);
        }

        return $memberships;
    }

    /**
     * @return array<string, string> team by login
     */
    private function teams(int $version): array
    {
        $teams = [];
        foreach ($this->store->version($version)?->all(Kind::People) ?? [] as $login => $person) {
            $team = $person->map('attributes')['team'] ?? '';
            $teams[(string) $login] = is_string($team) ? $team : '';
        }

        return $teams;
    }
}
