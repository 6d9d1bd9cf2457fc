<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Usage\UsageMeasure;

/**
 * What an allowance is of, in the units people agree on with who provides a cluster.
 */
enum AllowanceMeasure: string
{
    case BurstHours = 'burst';
    case SentGibibytes = 'sent';
    case ScannedTebibytes = 'scanned';
    case InFlightHours = 'in_flight';
    case Executions = 'executions';

    public function label(): string
    {
        return match ($this) {
            self::BurstHours => 'hours of burst clusters',
            self::SentGibibytes => 'GiB sent out',
            self::ScannedTebibytes => 'TiB scanned',
            self::InFlightHours => 'hours in flight',
            self::Executions => 'executions',
        };
    }

    /** What is counted with each execution; null for what is written down. */
    public function usage(): ?UsageMeasure
    {
        return match ($this) {
            self::ScannedTebibytes => UsageMeasure::Scanned,
            self::InFlightHours => UsageMeasure::InFlight,
            self::Executions => UsageMeasure::Executions,
            self::BurstHours, self::SentGibibytes => null,
        };
    }

    /** What is written down by the price it has; null for what is counted. */
    public function written(): ?PriceKind
    {
        return match ($this) {
            self::BurstHours => PriceKind::BurstHour,
            self::SentGibibytes => PriceKind::NetworkOut,
            self::ScannedTebibytes, self::InFlightHours, self::Executions => null,
        };
    }

    /** So much of what is counted is one of it. */
    public function size(): float
    {
        return match ($this) {
            self::ScannedTebibytes => 1024.0 ** 4,
            self::InFlightHours => 3.6e9,
            self::BurstHours, self::SentGibibytes, self::Executions => 1.0,
        };
    }
}
