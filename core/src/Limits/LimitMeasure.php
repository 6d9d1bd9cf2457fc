<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

use Fulcrion\Core\Usage\UsageMeasure;

/**
 * What is counted up to a limit. Amounts are whole numbers: bytes, microseconds, executions, millionths of a currency.
 */
enum LimitMeasure: string
{
    case Bytes = 'bytes';
    case Time = 'time';
    case Executions = 'executions';
    case Cost = 'cost';

    /** Of one unit of a currency. */
    public const MONEY = 1_000_000;

    public function label(): string
    {
        return match ($this) {
            self::Bytes => 'bytes scanned',
            self::Time => 'time in flight',
            self::Executions => 'executions',
            self::Cost => 'cost',
        };
    }

    /** The measure of use it is read from; cost follows from time in flight. */
    public function usage(): UsageMeasure
    {
        return match ($this) {
            self::Bytes => UsageMeasure::Scanned,
            self::Executions => UsageMeasure::Executions,
            self::Time, self::Cost => UsageMeasure::InFlight,
        };
    }

    /** Whether one statement can have too much of it. */
    public function isOfOne(): bool
    {
        return in_array($this, [self::Bytes, self::Time], true);
    }
}
