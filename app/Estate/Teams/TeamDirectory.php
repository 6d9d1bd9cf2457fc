<?php

declare(strict_types=1);

namespace App\Estate\Teams;

use Fulcrion\Core\Usage\TeamMembership;

/**
 * Who belongs to which team, and since when. The capability that keeps people answers.
 */
interface TeamDirectory
{
    /**
     * @return list<TeamMembership>
     */
    public function memberships(): array;
}
