<?php

declare(strict_types=1);

namespace App\Telemetry\Store;

use App\Estate\Models\Cluster;
use Illuminate\Support\Facades\DB;

/**
 * What a server said of failures, as far as it remembered single runs.
 */
final readonly class ErrorTexts
{
    /**
     * @param  int  $from second
     * @param  list<string>|null  $statements fingerprints; null for all
     * @return array<string, array<string, int>> fingerprint => text without values => times, the most frequent first
     */
    public static function of(Cluster $cluster, int $from, ?array $statements, string $like = '%'): array
    {
        if ($statements === []) {
            return [];
        }
        $query = DB::table('messages')
            ->join('statements', 'statements.id', '=', 'statement_id')
            ->where('cluster_id', $cluster->id)
            ->where('severity', '<>', 'warning')
            ->where('bucket_at', '>=', $from)
            ->where('messages.text', 'like', $like);
        if ($statements !== null) {
            $query->whereIn('fingerprint', $statements);
        }
        $texts = [];
        foreach (
            $query
                ->groupBy('fingerprint', 'messages.text')
                ->orderByRaw('SUM(occurrences) DESC')
                ->limit(1000)
                ->selectRaw('fingerprint, messages.text AS said, SUM(occurrences) AS times')
                ->get() as $row
        ) {
            $texts[$row->fingerprint][$row->said] = (int) $row->times;
        }

        return $texts;
    }
}
