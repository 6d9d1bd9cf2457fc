<?php

declare(strict_types=1);

namespace App\Health\Probes;

use App\Estate\Models\Cluster;
use Illuminate\Support\Facades\DB;

/**
 * How much longer a statement takes on a practice cluster for what is in flight beside it, modelled from the last five minutes that are
 * over: it waits in a queue as long as those did that began then, and shares the processors with those that ran (processor sharing,
 * Kleinrock 1967: 1 / (1 - use)).
 */
final readonly class Contention
{
    private const INTERVAL = 300;

    /** Nobody waits for ever. */
    private const MOST_USE = 0.9;

    /**
     * @return array{float, int} times as long, and microseconds of waiting on top
     */
    public function of(Cluster $cluster, int $now): array
    {
        $bucket = $now - $now % self::INTERVAL - self::INTERVAL;
        $sums = DB::table('load_by_origin_five_minute')->where('cluster_id', $cluster->id)->where('bucket_at', $bucket)
            ->selectRaw('SUM(executions) AS executions, SUM(queued_us) AS queued_us, SUM(cpu_us) AS cpu_us')->first();
        $executions = (int) ($sums->executions ?? 0);
        $use = min(self::MOST_USE, (int) ($sums->cpu_us ?? 0) / 1e6 / self::INTERVAL);

        return [1 / (1 - $use), $executions === 0 ? 0 : intdiv((int) ($sums->queued_us ?? 0), $executions)];
    }
}
