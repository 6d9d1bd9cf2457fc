<?php

declare(strict_types=1);

namespace Fulcrion\Core\Usage;

/**
 * What is counted of the executions of a day.
 */
enum UsageMeasure: string
{
    case Executions = 'executions';
    case InFlight = 'in_flight_us';
    case Cpu = 'cpu_us';
    case Queued = 'queued_us';
    case Scanned = 'bytes_scanned';
    case Spilled = 'bytes_spilled';
    case Rows = 'rows_returned';
    case Errors = 'errors';

    public function label(): string
    {
        return match ($this) {
            self::Executions => 'executions',
            self::InFlight => 'time in flight',
            self::Cpu => 'CPU time',
            self::Queued => 'queued time',
            self::Scanned => 'bytes scanned',
            self::Spilled => 'bytes spilled',
            self::Rows => 'rows returned',
            self::Errors => 'errors',
        };
    }

    public function isTime(): bool
    {
        return in_array($this, [self::InFlight, self::Cpu, self::Queued], true);
    }

    public function isBytes(): bool
    {
        return in_array($this, [self::Scanned, self::Spilled], true);
    }
}
