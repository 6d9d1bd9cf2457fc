<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Platform\Figures\TimeMarks;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * When incidents began, for figures over time.
 */
final readonly class IncidentMarks
{
    /**
     * @return array<int, string> name by Unix second
     */
    public static function of(int $clusterId, int $from, int $to): array
    {
        return TimeMarks::named(DB::table('incidents')->where('cluster_id', $clusterId)->whereBetween('opened_at', [$from, $to - 1])
            ->orderBy('id')->get(['id', 'opened_at'])
            ->map(static fn (stdClass $row): array => [(int) $row->opened_at, "incident {$row->id}"]));
    }
}
