<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use Illuminate\Support\Facades\DB;

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
        $marks = [];
        foreach (DB::table('incidents')->where('cluster_id', $clusterId)->whereBetween('opened_at', [$from, $to - 1])->orderBy('id')
            ->get(['id', 'opened_at']) as $row) {
            $at = (int) $row->opened_at;
            $marks[$at] = isset($marks[$at]) ? "{$marks[$at]}, incident {$row->id}" : "incident {$row->id}";
        }

        return $marks;
    }
}
