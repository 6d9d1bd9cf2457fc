<?php

declare(strict_types=1);

namespace App\Ledger\Policies;

use App\Ledger\Models\Change;
use App\Platform\Models\User;

/**
 * Who may do what with a change: everybody signed in reads it, its kind says who rehearses, approves, applies and undoes it.
 */
final readonly class ChangePolicy
{
    public function act(User $user, Change $change): bool
    {
        return ! $change->cluster->trashed() && $user->can($change->kind()->ability);
    }

    /** Which statements it is measured by. */
    public function choose(User $user, Change $change): bool
    {
        return ! $change->cluster->trashed() && $user->can('run');
    }
}
