<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

/**
 * What is done where a share of a limit is reached.
 */
enum Act: string
{
    case Note = 'note';
    case Tell = 'tell';
    case Hold = 'hold';

    public function label(): string
    {
        return match ($this) {
            self::Note => 'note it',
            self::Tell => 'tell somebody',
            self::Hold => 'hold new statements',
        };
    }

    /** That it was done. */
    public function done(): string
    {
        return match ($this) {
            self::Note => 'noted',
            self::Tell => 'told',
            self::Hold => 'held',
        };
    }
}
