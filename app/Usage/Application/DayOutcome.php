<?php

declare(strict_types=1);

namespace App\Usage\Application;

/**
 * What became of the facts of a day.
 */
enum DayOutcome: string
{
    case Open = 'open';
    case Closed = 'closed';
    case Corrected = 'corrected';
    case Unchanged = 'unchanged';
}
