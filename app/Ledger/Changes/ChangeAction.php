<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

/**
 * What a worker does with a change: the transitions of its state stand here and nowhere else. Approving is a person's word, which
 * needs no worker and leads from rehearsed to approved.
 */
enum ChangeAction: string
{
    case Rehearse = 'rehearsing';
    case Apply = 'applying';
    case Undo = 'undoing';

    public function mayBeginIn(ChangeState $state): bool
    {
        return match ($this) {
            self::Rehearse => $state->isOpen(),
            self::Apply => $state === ChangeState::Approved,
            self::Undo => $state === ChangeState::Applied,
        };
    }

    /** Where it leads when it went through. */
    public function reaches(): ChangeState
    {
        return match ($this) {
            self::Rehearse => ChangeState::Rehearsed,
            self::Apply => ChangeState::Applied,
            self::Undo => ChangeState::Undone,
        };
    }

    /** Where it leads when it did not; what was through before stays so. */
    public function failsInto(ChangeState $now, bool $stopped): ChangeState
    {
        return $this === self::Apply && $now !== ChangeState::Applied ? ($stopped ? ChangeState::Approved : ChangeState::Failed) : $now;
    }

    /** As the journal says that somebody asked for it. */
    public function asked(): string
    {
        return 'asked to '.strtolower($this->name);
    }

    /** As the journal says that it went through. */
    public function done(): string
    {
        return match ($this) {
            self::Rehearse => 'rehearsed a change',
            self::Apply => 'applied a change',
            self::Undo => 'undid a change',
        };
    }
}
