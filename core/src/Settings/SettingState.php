<?php

declare(strict_types=1);

namespace Fulcrion\Core\Settings;

/**
 * How a setting of one host is.
 */
enum SettingState: string
{
    case Desired = 'as desired';
    case Differs = 'not as desired';
    /** Nothing is desired, and most other hosts have one other value. */
    case Odd = 'unlike the others';
    case Alike = 'like the others';
    /** Read of other hosts, and not of this one. */
    case Unread = 'cannot be read';

    public function isTrouble(): bool
    {
        return $this === self::Differs;
    }
}
