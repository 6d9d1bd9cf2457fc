<?php

declare(strict_types=1);

namespace App\Tuning\Application;

use App\Ledger\Changes\Changes;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Changes\Refused;
use App\Ledger\Models\Change;
use App\Platform\Models\User;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/**
 * Applies approved changes one after the other: a later one may need what an earlier one made.
 */
final class ApplyChanges implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    /**
     * @param  list<int>  $changes
     */
    public function __construct(public readonly array $changes, public readonly int $userId)
    {
    }

    public function handle(Changes $changes): void
    {
        $user = User::query()->find($this->userId);
        if (! ($user instanceof User)) {
            return;
        }
        foreach ($this->changes as $id) {
            $change = Change::query()->find($id);
            if (! ($change instanceof Change) || $change->state !== ChangeState::Approved) {
                continue;
            }
            try {
                $changes->apply($change, $user, true);
            } catch (Refused $refused) {
                $change->update(['error' => $refused->getMessage()]);

                return;
            }
            if ($change->refresh()->state !== ChangeState::Applied) {
                // What comes next was rehearsed on top of it.
                return;
            }
        }
    }
}
