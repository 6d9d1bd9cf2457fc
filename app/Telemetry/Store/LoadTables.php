<?php

declare(strict_types=1);

namespace App\Telemetry\Store;

/**
 * The tables that hold telemetry of clusters by the bucket it belongs to.
 */
final class LoadTables
{
    public const BY_BUCKET = [
        'load_half_minute',
        'load_five_minute',
        'load_hour',
        'load_six_hour',
        'load_day',
        'load_week',
        'load_by_origin_five_minute',
        'load_by_origin_hour',
        'seen_executions',
        'messages',
    ];
}
