<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Estate\Models\Cluster;
use App\Metrics\Signals\SignalSource;
use Fulcrion\Core\Time\Steps;
use Illuminate\Support\Facades\DB;

/**
 * How many alerts rang, those that were silenced aside. They are told to whoever shows a cluster, and not offered to be watched: an alert
 * on them would ring for itself.
 */
final readonly class RingSignals implements SignalSource
{
    private const RINGING = 'ringing';

    public function prefix(): string
    {
        return 'alert';
    }

    public function signals(Cluster $cluster): array
    {
        return [];
    }

    public function delaySeconds(Cluster $cluster): int
    {
        return 0;
    }

    public function values(Cluster $cluster, string $key, int $from, int $to, int $step): array
    {
        if ($key !== self::RINGING) {
            return [];
        }
        $spans = [];
        foreach (DB::table('alert_rings')->where('cluster_id', $cluster->id)->where('is_silenced', false)->where('rang_at', '<', $to)
            ->where(static fn ($some) => $some->whereNull('to_at')->orWhere('to_at', '>', $from))->get(['rang_at', 'to_at']) as $row) {
            $spans[] = [(int) $row->rang_at, $row->to_at === null ? null : (int) $row->to_at];
        }

        return ['' => Steps::counts($spans, $from, $to, $step)];
    }
}
