<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/**
 * Tables and columns bear the names the field uses; what is in them stays.
 */
return new class extends Migration
{
    private const TABLES = [
        'sightings' => 'statement_presence',
        'flow_five_minute' => 'load_by_origin_five_minute',
        'flow_hour' => 'load_by_origin_hour',
        'taken' => 'seen_executions',
        'set_aside' => 'rejected_records',
        'runs' => 'workbench_runs',
        'upkeep_plans' => 'maintenance_plans',
        'upkeep_runs' => 'maintenance_runs',
        'house_settings' => 'house_rule_settings',
        'watchers' => 'subscriptions',
        'outbox' => 'notifications',
        'looks' => 'overview_visits',
        'guard_versions' => 'policy_versions',
        'guard_draft' => 'policy_drafts',
        'guard_decisions' => 'access_decisions',
        'guard_requests' => 'access_requests',
        'guard_campaigns' => 'review_campaigns',
        'guard_campaign_items' => 'review_items',
    ];

    private const COLUMNS = [
        'imports' => ['taken' => 'accepted', 'set_aside' => 'rejected', 'beat_at' => 'heartbeat_at'],
        'changes' => ['beat_us' => 'heartbeat_us'],
        'lab_runs' => ['beat_us' => 'heartbeat_us'],
        'tuning_runs' => ['beat_us' => 'heartbeat_us'],
        'job_runs' => ['beat_us' => 'heartbeat_us', 'opinion' => 'analysis', 'later' => 'forecast'],
    ];

    public function up(): void
    {
        foreach (self::TABLES as $old => $new) {
            Schema::rename($old, $new);
        }
        foreach (self::COLUMNS as $table => $columns) {
            Schema::table($table, static fn (Blueprint $on) => array_map($on->renameColumn(...), array_keys($columns), $columns));
        }
        self::say('luck', 'distribution', 'forecast');
        DB::table('statements')->where('kind', 'upkeep')->update(['kind' => 'maintenance']);
    }

    public function down(): void
    {
        DB::table('statements')->where('kind', 'maintenance')->update(['kind' => 'upkeep']);
        self::say('distribution', 'luck', 'forecast');
        foreach (self::COLUMNS as $table => $columns) {
            Schema::table($table, static fn (Blueprint $on) => array_map($on->renameColumn(...), $columns, array_keys($columns)));
        }
        foreach (self::TABLES as $old => $new) {
            Schema::rename($new, $old);
        }
    }

    /** A name inside of what is kept of parallel jobs. */
    private static function say(string $old, string $new, string $column): void
    {
        DB::update("UPDATE job_runs SET {$column} = REPLACE({$column}, ?, ?) WHERE {$column} IS NOT NULL", ["\"{$old}\":", "\"{$new}\":"]);
    }
};
