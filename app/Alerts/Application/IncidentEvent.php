<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Alerts\Models\Incident;

/**
 * What is said of an incident.
 */
enum IncidentEvent: string
{
    case Began = 'began';
    case Grew = 'grew';
    case Over = 'over';

    /** Nobody took it in time. */
    case Second = 'not-taken';

    public function said(Incident $incident): string
    {
        return match ($this) {
            self::Began => "Began: {$incident->title}",
            self::Grew => "Grew: {$incident->title}",
            self::Over => "Over: {$incident->title}",
            self::Second => "Nobody has taken it yet: {$incident->title}",
        };
    }
}
