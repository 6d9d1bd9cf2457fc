<?php

declare(strict_types=1);

namespace App\Estate\Authorization;

use App\Platform\Models\User;

/**
 * In whose name something is asked of a cluster: a person, or a named part of the system with its reason.
 */
final readonly class Actor
{
    private function __construct(public ?User $person, public ?SystemActor $system, public string $reason)
    {
    }

    /**
     * @param  string  $where it is asked, in one word
     */
    public static function person(User $person, string $where): self
    {
        return new self($person, null, $where);
    }

    /**
     * @param  string  $reason why, as it is kept
     */
    public static function system(SystemActor $system, string $reason): self
    {
        return new self(null, $system, $reason);
    }

    /** The name a statement runs under. */
    public function name(): string
    {
        return $this->person->email ?? ($this->system->value ?? '');
    }
}
