<?php

declare(strict_types=1);

namespace App\Platform\Support;

use App\Platform\Models\User;

/**
 * Where it is written down who did what. What everything else stands on writes to it without knowing who keeps it.
 */
interface Journal
{
    /**
     * @param  User|null  $user nobody where the system does something by itself
     * @param  array<string, scalar|null>  $details
     */
    public function record(?User $user, string $act, string $object, array $details = []): void;
}
