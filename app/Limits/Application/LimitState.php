<?php

declare(strict_types=1);

namespace App\Limits\Application;

/**
 * Whether a limit is in force.
 */
enum LimitState: string
{
    /** Not switched on yet: it can be tried on the past. */
    case Tried = 'tried';
    case On = 'on';
    case Off = 'off';

    public function label(): string
    {
        return match ($this) {
            self::Tried => 'not switched on',
            self::On => 'in force',
            self::Off => 'switched off',
        };
    }
}
