<?php

declare(strict_types=1);

namespace App\Telemetry\Workload;

use Illuminate\Support\Facades\DB;

/**
 * Where statements are mostly sent.
 */
final readonly class Databases
{
    /**
     * @param  list<int>  $statements ids
     * @param  int  $from second
     * @return array<int, string> database by statement; left out where that is not known
     */
    public static function of(int $clusterId, array $statements, int $from): array
    {
        $databases = [];
        foreach (array_chunk($statements, 2_000) as $some) {
            foreach (
                DB::table('load_day')
                    ->join('origins', 'origins.id', '=', 'origin_id')
                    ->where('cluster_id', $clusterId)
                    ->where('bucket_at', '>=', $from)
                    ->whereIn('statement_id', $some)
                    ->where('database_name', '<>', '')
                    ->groupBy('statement_id', 'database_name')
                    ->orderByRaw('SUM(executions)')
                    ->get(['statement_id', 'database_name']) as $row
            ) {
                $databases[(int) $row->statement_id] = (string) $row->database_name;
            }
        }

        return $databases;
    }
}
