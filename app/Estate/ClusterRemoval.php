<?php

declare(strict_types=1);

namespace App\Estate;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/**
 * Takes a cluster out of the estate with all that was kept of it. What was changed there and proved stays, with its name.
 */
final readonly class ClusterRemoval
{
    /** Of the ledger; and what those who keep readings need to take them away, wherever they are. */
    private const STAYS = ['changes', 'findings', 'metric_places', 'metric_series'];

    public function remove(Cluster $cluster): void
    {
        $of = static fn (string $table): Builder => DB::table($table)->where('cluster_id', $cluster->id)->select('id');
        // What hangs on its rows first.
        foreach (
            [
                ['rejected_records', 'import_id', 'imports'],
                ['notifications', 'finding_id', 'findings'],
                ['maintenance_runs', 'plan_id', 'maintenance_plans'],
                ['job_chunks', 'run_id', 'job_runs'],
                ['job_task_names', 'run_id', 'job_runs'],
            ] as [$table, $column, $parent]
        ) {
            DB::table($table)->whereIn($column, $of($parent))->delete();
        }
        // A finding stays where a change was made for it, and nobody has to do anything about it any more.
        $changed = DB::table('changes')->where('cluster_id', $cluster->id)->whereNotNull('finding_id')->pluck('finding_id');
        DB::table('findings')->where('cluster_id', $cluster->id)->whereNotIn('id', $changed)->delete();
        DB::table('findings')->where('cluster_id', $cluster->id)->where('state', '!=', 'solved')->update([
            'state' => 'solved',
            'solved_us' => Clock::microseconds(),
        ]);
        foreach (
            DB::select(
                "SELECT TABLE_NAME AS name FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE() AND COLUMN_NAME = 'cluster_id'",
            ) as $table
        ) {
            if (! in_array($table->name, self::STAYS, true)) {
                DB::table($table->name)->where('cluster_id', $cluster->id)->delete();
            }
        }
        $cluster->tokens()->delete();
        // The address is free for another one, and no password is kept of what nobody reads.
        $cluster->forceFill([
            'slug' => mb_strcut($cluster->slug, 0, 40)."-removed-{$cluster->id}",
            'host' => null,
            'username' => null,
            'secret' => null,
            'ender_username' => null,
            'ender_secret' => null,
            'paused' => true,
        ])->save();
        $cluster->delete();
    }
}
