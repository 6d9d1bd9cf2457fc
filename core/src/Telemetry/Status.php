<?php

declare(strict_types=1);

namespace Fulcrion\Core\Telemetry;

enum Status: string
{
    case Ok = 'ok';
    case Error = 'error';
    case Cancelled = 'cancelled';
    case TimedOut = 'timed_out';
}
