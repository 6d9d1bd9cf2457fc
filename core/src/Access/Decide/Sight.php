<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

/**
 * How much of a column somebody sees, from all to none.
 */
enum Sight: string
{
    case Visible = 'visible';
    case Masked = 'masked';
    /** Left out of *; refused when named. */
    case Hidden = 'hidden';
    /** Refused, in * as well. */
    case Denied = 'denied';

    public function rank(): int
    {
        return (int) array_search($this, self::cases(), true);
    }
}
