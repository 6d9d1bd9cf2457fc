<?php

declare(strict_types=1);

namespace App\Ledger\Policies;

use App\Ledger\Models\Finding;
use App\Platform\Models\User;

/**
 * Who may do what with a finding: everybody signed in reads it, its source says who decides on it.
 */
final readonly class FindingPolicy
{
    public function decide(User $user, Finding $finding): bool
    {
        return $user->can($finding->source()->ability);
    }
}
