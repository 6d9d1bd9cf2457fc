<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

/**
 * Whether somebody should do something about a finding. In the order of the alphabet, as lists are sorted by it.
 */
enum Severity: string
{
    case Act = 'act';
    case Watch = 'watch';

    public static function of(bool $act): self
    {
        return $act ? self::Act : self::Watch;
    }
}
