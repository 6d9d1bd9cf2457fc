<?php

declare(strict_types=1);

namespace App\Platform\Support;

/**
 * Whom the policy knows, so that accounts can be bound to them.
 */
interface PolicyPeople
{
    /**
     * @return array<string, string> name in the policy => full name, with what kind of account it is
     */
    public function all(): array;
}
