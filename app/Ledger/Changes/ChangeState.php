<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

/**
 * Where a change stands. What leads from one to the next is said by ChangeAction.
 */
enum ChangeState: string
{
    case Proposed = 'proposed';
    case Rehearsed = 'rehearsed';
    case Approved = 'approved';
    case Applied = 'applied';
    case Undone = 'undone';
    case Failed = 'failed';

    /** Whether it is still to be decided by what it is measured, and whether it is wanted. */
    public function isOpen(): bool
    {
        return in_array($this, [self::Proposed, self::Rehearsed, self::Failed], true);
    }
}
