<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

/**
 * What a finding's weight is counted in. Weights of different units are never added.
 */
enum WeightUnit: string
{
    /** Microseconds a week statements are in flight. */
    case QueryTime = 'query time';

    /** Microseconds a week of workers of parallel jobs. */
    case WorkerTime = 'worker time';

    case Bytes = 'bytes';
    case None = '';

    /** Its name in exports and messages. */
    public function field(): string
    {
        return match ($this) {
            self::QueryTime => 'query_us_per_week',
            self::WorkerTime => 'worker_us_per_week',
            self::Bytes => 'bytes',
            self::None => '',
        };
    }

    /** For a list that shows the heaviest first: units in the order of this enumeration. */
    public static function order(): string
    {
        return 'FIELD(weight_unit, '.implode(', ', array_map(static fn (self $unit): string => "'{$unit->value}'", self::cases())).')';
    }
}
