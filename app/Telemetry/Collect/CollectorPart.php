<?php

declare(strict_types=1);

namespace App\Telemetry\Collect;

use App\Estate\Models\Cluster;
use App\Platform\Parts\OwnPart;

/**
 * Whether servers are read as often as they should be.
 */
final readonly class CollectorPart
{
    public static function of(): OwnPart
    {
        $clusters = Cluster::watched(null);
        $late = $clusters->filter(static fn (Cluster $one): bool => $one->isSilent() || $one->failing_since !== null);

        return new OwnPart($late->isEmpty() ? 'calm' : 'act', match (true) {
            $clusters->isEmpty() => 'No server is watched.',
            $late->isEmpty() => 'All servers are read in time.',
            default => $late->pluck('name')->implode(', ').' '.($late->count() === 1 ? 'is' : 'are').' not read.',
        }, ['late' => (float) $late->count()]);
    }
}
