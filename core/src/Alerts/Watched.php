<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

/**
 * What of a measure is held against a threshold.
 */
enum Watched: string
{
    /** The value itself. */
    case Value = 'value';

    /** How many times as much as usual at that hour of the week. */
    case Usual = 'usual';

    /** Days until a limit is reached. */
    case DaysLeft = 'days-left';

    /** Seconds for which nothing was told. */
    case Silence = 'silence';
}
