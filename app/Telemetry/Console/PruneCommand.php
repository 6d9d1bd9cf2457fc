<?php

declare(strict_types=1);

namespace App\Telemetry\Console;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Connectors\WatchingCost;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Store\FineLoadStore;
use App\Telemetry\Store\LoadMemory;
use App\Telemetry\Store\LoadTables;
use App\Telemetry\Store\Partitions;
use App\Telemetry\Store\ReadingGaps;
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Statements\WindowCover;
use Illuminate\Console\Command;
use Illuminate\Support\Facades\DB;

final class PruneCommand extends Command
{
    protected $signature = 'telemetry:prune';

    protected $description = 'Ends what has outlived its retention and writes grown sketches in their shortest form';

    /** Sketches longer than this are rewritten with every bin once. */
    private const LONG_SKETCH = 4_096;

    /** How long earlier versions of practice tables can be read. */
    private const VERSION_DAYS = 7;

    public function handle(Partitions $partitions, Clusters $clusters): int
    {
        $now = Clock::seconds();
        $longest = 0;
        foreach (Cluster::query()->get() as $cluster) {
            $longest = max($longest, $cluster->retention_days);
            $before = $now - $cluster->retention_days * 86_400;
            // Whole weeks, so that the summaries of every length end at the same moment.
            $before -= $before % WindowCover::LEVELS['week'];
            foreach (LoadTables::BY_BUCKET as $table) {
                DB::table($table)->where('cluster_id', $cluster->id)->where('bucket_at', '<', $before)->delete();
            }
            LoadMemory::forget($cluster->id);
            DB::table('samples')
                ->where('cluster_id', $cluster->id)
                ->where('hour_at', '<', $now - $cluster->sample_days * 86_400)
                ->delete();
            DB::table('plans')
                ->where('cluster_id', $cluster->id)
                ->where('last_us', '<', $before * 1_000_000)
                ->delete();
            $this->expire($cluster, $clusters, $now);
            DB::table('statement_presence')
                ->where('cluster_id', $cluster->id)
                ->where('last_us', '<', $before * 1_000_000)
                ->delete();
        }
        WatchingCost::prune();
        (new ReadingGaps())->prune(Clock::seconds());
        (new FineLoadStore())->prune($now);
        if ($longest > 0) {
            $before = $now - $longest * 86_400;
            $partitions->dropBefore($before - ($before % WindowCover::LEVELS['week']));
        }
        foreach (array_keys(WindowCover::LEVELS) as $level) {
            foreach (
                DB::select(
                    "SELECT cluster_id, bucket_at, statement_id, origin_id, sketch FROM load_{$level} WHERE LENGTH(sketch) > ? LIMIT 5000",
                    [self::LONG_SKETCH],
                ) as $row
            ) {
                $short = LatencySketch::fromBinary($row->sketch)->toBinary();
                if (strlen($short) < strlen($row->sketch)) {
                    // Only if nothing was added in the meantime.
                    DB::update(
                        "UPDATE load_{$level} SET sketch = ? WHERE cluster_id = ? AND bucket_at = ? AND statement_id = ? AND origin_id "
                            .'= ? AND LENGTH(sketch) = ?',
                        [$short, $row->cluster_id, $row->bucket_at, $row->statement_id, $row->origin_id, strlen($row->sketch)],
                    );
                }
            }
        }

        return self::SUCCESS;
    }

    private function expire(Cluster $cluster, Clusters $clusters, int $now): void
    {
        try {
            $clusters
                ->as(Actor::system(SystemActor::Maintenance, 'old versions of tables'))
                ->expire($cluster, ($now - self::VERSION_DAYS * 86_400) * 1_000_000);
        } catch (SourceError $error) {
            $this->warn("{$cluster->name}: {$error->getMessage()}");
        }
    }
}
