<?php

declare(strict_types=1);

namespace Tests;

use App\Ledger\Changes\ChangeAction;
use App\Ledger\Changes\Changes;
use App\Ledger\Models\Change;
use App\Platform\Models\User;

/**
 * Takes a change from state to state as a page does.
 */
trait StepsOfChanges
{
    private static function take(Change $change, ChangeAction $action, User $user): void
    {
        $changes = app(Changes::class);
        match ($action) {
            ChangeAction::Rehearse => $changes->rehearse($change, $user),
            ChangeAction::Apply => $changes->apply($change, $user),
            ChangeAction::Undo => $changes->undo($change, $user),
        };
        $change->refresh();
    }
}
