<?php

declare(strict_types=1);

namespace App\Metrics\Places;

/**
 * How far readings have come on their way to another server, or back.
 */
enum PlaceState: string
{
    /** They are copied there, and read and written here. */
    case Coming = 'coming';
    case There = 'there';

    /** They are copied back, and read and written there. */
    case Leaving = 'leaving';

    /** They are read and written here again; what is left there is taken away. */
    case Left = 'left';

    public function isThere(): bool
    {
        return $this === self::There || $this === self::Leaving;
    }

    public function isMoving(): bool
    {
        return $this !== self::There;
    }
}
