<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/**
 * A finding weighs in one unit, knows what it costs each statement, and cannot outlive what it belongs to.
 */
return new class extends Migration
{
    /** Table => column => table it points to, and what happens to its rows when that goes. Load itself is written in bulk, without. */
    private const KEYS = [
        'findings' => ['cluster_id' => ['clusters', 'cascade']],
        'changes' => ['cluster_id' => ['clusters', 'cascade'], 'finding_id' => ['findings', 'set null']],
        'proofs' => ['change_id' => ['changes', 'cascade']],
        'notifications' => ['finding_id' => ['findings', 'cascade']],
        'policy_versions' => ['change_id' => ['changes', 'set null']],
        'plans' => ['cluster_id' => ['clusters', 'cascade']],
        'imports' => ['cluster_id' => ['clusters', 'cascade'], 'user_id' => ['users', 'set null']],
        'rejected_records' => ['import_id' => ['imports', 'cascade']],
        'column_maps' => ['cluster_id' => ['clusters', 'cascade']],
        'house_rule_settings' => ['cluster_id' => ['clusters', 'cascade']],
        'maintenance_plans' => ['cluster_id' => ['clusters', 'cascade']],
        'maintenance_runs' => ['plan_id' => ['maintenance_plans', 'cascade']],
        'lab_runs' => ['cluster_id' => ['clusters', 'cascade']],
        'tuning_runs' => ['cluster_id' => ['clusters', 'cascade']],
        'workbench_runs' => ['cluster_id' => ['clusters', 'cascade'], 'user_id' => ['users', 'cascade']],
        'job_series' => ['cluster_id' => ['clusters', 'cascade']],
        'job_runs' => ['cluster_id' => ['clusters', 'cascade'], 'series_id' => ['job_series', 'cascade']],
        'job_chunks' => ['run_id' => ['job_runs', 'cascade']],
        'job_task_names' => ['run_id' => ['job_runs', 'cascade']],
        'review_items' => ['campaign_id' => ['review_campaigns', 'cascade']],
        'overview_visits' => ['user_id' => ['users', 'cascade']],
    ];

    public function up(): void
    {
        Schema::table('findings', static function (Blueprint $table): void {
            $table->double('weight')->default(0)->after('evidence');
            $table->string('weight_unit', 12)->default('')->after('weight');
            $table->renameColumn('weight_bytes', 'spare_bytes');
        });
        DB::table('findings')
            ->where('weight_us', '>', 0)
            ->update([
                'weight' => DB::raw('weight_us'),
                'weight_unit' => DB::raw("IF(source = 'jobs', 'worker time', 'query time')"),
            ]);
        DB::table('findings')
            ->where('weight_us', '<=', 0)
            ->where('spare_bytes', '>', 0)
            ->update(['weight' => DB::raw('spare_bytes'), 'weight_unit' => 'bytes']);
        Schema::table('findings', static fn (Blueprint $table) => $table->dropColumn('weight_us'));
        foreach (self::KEYS as $name => $keys) {
            foreach ($keys as $column => [$parent, $then]) {
                $orphans = DB::table($name)
                    ->whereNotNull($column)
                    ->whereNotIn($column, DB::table($parent)->select('id'));
                $then === 'set null' ? $orphans->update([$column => null]) : $orphans->delete();
                Schema::table(
                    $name,
                    static fn (Blueprint $table) => $table->foreign($column)->references('id')->on($parent)->onDelete($then),
                );
            }
        }
        Schema::create('finding_statements', static function (Blueprint $table): void {
            $table->unsignedInteger('finding_id');
            $table->char('fingerprint', 32);
            // Modelled, a week.
            $table->double('weight_us');
            $table->primary(['finding_id', 'fingerprint']);
            $table->index('fingerprint');
            $table->foreign('finding_id')->references('id')->on('findings')->cascadeOnDelete();
        });
    }

    public function down(): void
    {
        Schema::drop('finding_statements');
        foreach (self::KEYS as $name => $keys) {
            Schema::table($name, static function (Blueprint $table) use ($keys): void {
                foreach (array_keys($keys) as $column) {
                    $table->dropForeign([$column]);
                }
            });
        }
        Schema::table('findings', static function (Blueprint $table): void {
            $table->double('weight_us')->default(0)->after('weight');
            $table->renameColumn('spare_bytes', 'weight_bytes');
        });
        DB::table('findings')
            ->whereIn('weight_unit', ['query time', 'worker time'])
            ->update(['weight_us' => DB::raw('weight')]);
        Schema::table('findings', static fn (Blueprint $table) => $table->dropColumn('weight', 'weight_unit'));
    }
};
