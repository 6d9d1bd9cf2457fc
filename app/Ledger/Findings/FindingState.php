<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

enum FindingState: string
{
    case Open = 'open';

    /** Somebody is on it. */
    case Accepted = 'accepted';

    /** It may stay as it is until a date, for a reason. */
    case Dismissed = 'dismissed';

    /** It was not found any more. */
    case Solved = 'solved';

    /**
     * @return list<string> those that need somebody, as they are kept
     */
    public static function waiting(): array
    {
        return [self::Open->value, self::Accepted->value];
    }
}
