<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Connectors\ServerState;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Whose statements waited for rows. The server counts the time of all; who waits is seen at each reading only. So the time that was added
 * between two readings goes, in equal parts, to the statements that were seen waiting at either of them, and to nobody where there was
 * none.
 */
final readonly class RowLockTime
{
    private const BUCKET_SECONDS = 300;

    private const KEPT_SECONDS = 14 * 86_400;

    private const TIME = 'innodb_row_lock_time';

    /**
     * @param  stdClass|null  $memory of the reading before; null where there is none or the server was started again
     * @return array{lock_ms: float|null, waiting: string} to be remembered
     */
    public function add(Cluster $cluster, ServerState $state, ?stdClass $memory): array
    {
        $fingerprinter = new Fingerprinter(Dialect::MariaDb);
        $waiting = [];
        foreach ($state->waiting as $sql) {
            if (trim($sql) !== '') {
                $waiting[] = $fingerprinter->of($sql)->id;
            }
        }
        $nowMs = $state->values[self::TIME] ?? null;
        $before = $memory?->lock_ms;
        if ($nowMs !== null && $before !== null && $nowMs > $before) {
            $last = json_decode((string) $memory->waiting, true);
            $seen = array_values(array_map(strval(...), [...is_array($last) ? $last : [], ...$waiting]));
            $this->share($cluster, (int) round(($nowMs - $before) * 1000), $seen === [] ? [''] : $seen);
        }

        return ['lock_ms' => $nowMs, 'waiting' => json_encode($waiting, JSON_THROW_ON_ERROR)];
    }

    /**
     * @return list<stdClass> fingerprint, text and waited_us, the longest first; an empty fingerprint for what nobody was seen to wait
     */
    public function of(Cluster $cluster, int $from, int $to): array
    {
        return array_values(DB::select(
            'SELECT l.statement AS fingerprint, s.text, SUM(l.waited_us) AS waited_us FROM row_lock_time l
            LEFT JOIN statements s ON s.fingerprint = l.statement
            WHERE l.cluster_id = ? AND l.bucket_at > ? AND l.bucket_at < ? GROUP BY l.statement, s.text ORDER BY waited_us DESC LIMIT 50',
            [$cluster->id, $from - self::BUCKET_SECONDS, $to],
        ));
    }

    public function prune(int $now): void
    {
        DB::table('row_lock_time')->where('bucket_at', '<', $now - self::KEPT_SECONDS)->delete();
    }

    /**
     * @param  non-empty-list<string>  $seen fingerprints, one for each that waited
     */
    private function share(Cluster $cluster, int $waitedUs, array $seen): void
    {
        $now = Clock::seconds();
        $rows = [];
        foreach (array_count_values($seen) as $statement => $times) {
            $rows[] = [
                'cluster_id' => $cluster->id,
                'bucket_at' => $now - $now % self::BUCKET_SECONDS,
                'statement' => (string) $statement,
                'waited_us' => intdiv($waitedUs * $times, count($seen)),
            ];
        }
        DB::table('row_lock_time')->upsert($rows, [], ['waited_us' => DB::raw('waited_us + VALUES(waited_us)')]);
    }
}
