<?php

declare(strict_types=1);

namespace App\Diagnostics\Application;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Fulcrion\Core\Sql\Fingerprint;
use Fulcrion\Core\Statements\Patterns\PatternFinder;
use Fulcrion\Core\Statements\Patterns\SessionRun;
use Fulcrion\Core\Telemetry\Execution;
use Illuminate\Support\Facades\DB;

/**
 * Counts what applications ask more often than they need to, five minutes at a time.
 */
final readonly class PatternCounts
{
    private const BUCKET_SECONDS = 300;

    private const KEPT_DAYS = 15;

    /**
     * @param  list<array{Execution, Fingerprint}>  $runs
     */
    public function count(Cluster $cluster, array $runs): void
    {
        $now = Clock::seconds();
        $rows = [];
        foreach (PatternFinder::find(self::runs($runs)) as $pattern) {
            $rows[] = [
                'cluster_id' => $cluster->id,
                'bucket_at' => $now - ($now % self::BUCKET_SECONDS),
                'kind' => $pattern->kind->value,
                'parent' => (string) $pattern->parent,
                'statement' => $pattern->statement,
                'rounds' => $pattern->rounds,
                'times' => $pattern->times,
                'duration_us' => $pattern->durationUs,
                'interval_us' => $pattern->intervalUs,
            ];
        }
        foreach (array_chunk($rows, 200) as $chunk) {
            DB::table('statement_patterns')->upsert($chunk, [], [
                'rounds' => DB::raw('rounds + VALUES(rounds)'),
                'times' => DB::raw('times + VALUES(times)'),
                'duration_us' => DB::raw('duration_us + VALUES(duration_us)'),
                'interval_us' => DB::raw('VALUES(interval_us)'),
            ]);
        }
    }

    public function prune(): void
    {
        DB::table('statement_patterns')->where('bucket_at', '<', Clock::seconds() - self::KEPT_DAYS * 86_400)->delete();
    }

    /**
     * @param  list<array{Execution, Fingerprint}>  $runs
     * @return list<SessionRun> those whose session is known
     */
    private static function runs(array $runs): array
    {
        $list = [];
        foreach ($runs as [$execution, $statement]) {
            if (preg_match('~^thread (\d+), event (\d+)$~', (string) $execution->planRef, $place) === 1) {
                $list[] = new SessionRun(
                    $place[1],
                    (int) $place[2],
                    $statement->id,
                    $statement->text,
                    hash('xxh64', $execution->sql),
                    $execution->startedAtUs,
                    $execution->durationUs,
                    $execution->work->rowsReturned,
                );
            }
        }

        return $list;
    }
}
