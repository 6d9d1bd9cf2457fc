<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Jobs\Models\JobRun;
use App\Ledger\Models\Notification;
use App\Ledger\Models\Subscription;
use App\Platform\Support\Role;
use App\Storage\Models\MaintenancePlan;
use App\Telemetry\Models\Import;
use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;
use Tests\TestCase;

/**
 * A store of the version before shows the same with the code of today.
 */
final class MigrationTest extends TestCase
{
    public function test_figures_stay_when_tables_and_columns_get_other_names(): void
    {
        $cluster = $this->cluster();
        $lines = array_map(static fn (int $i): array => [
            'started_at' => "2026-11-20T09:0{$i}:00Z", 'duration_us' => 1000 * $i, 'sql' => "SELECT crew FROM people.crew WHERE id = {$i}", 'user' => "user {$i}", 'application' => 'board',
        ], range(1, 9));
        Artisan::call('telemetry:import', ['file' => $this->file([...$lines, 'not a record']), '--cluster' => 'fernhill']);
        $import = Import::query()->firstOrFail();
        Subscription::query()->create(['kind' => 'mail', 'target' => 'team@brackenfold.example', 'digest' => false, 'paused' => false, 'made_by' => 'Owner']);
        $plan = MaintenancePlan::query()->create([
            'cluster_id' => $cluster->id, 'object' => 'field.pick', 'acts' => ['compact'], 'cron' => '', 'space_share' => 0.1, 'made_by' => 'Owner',
        ] + self::blanks('maintenance_plans'));
        DB::table('job_runs')->insert(['cluster_id' => $cluster->id, 'external_id' => 'a', 'name' => 'nightly', 'forecast' => '{"distribution":{"workers":[1]}}', 'analysis' => '{"ceiling":3}'] + self::blanks('job_runs'));
        $before = $this->shown($import->id);
        self::assertSame([9, 9, 9, 1, 1, 1], array_slice($before, 0, 6));

        $migration = require database_path('migrations/2026_11_29_000000_names_of_the_field.php');
        assert($migration instanceof Migration && method_exists($migration, 'up') && method_exists($migration, 'down'));
        $migration->down();
        try {
            // As the version before has left it.
            self::assertTrue(Schema::hasTable('taken') && Schema::hasTable('sightings') && Schema::hasTable('guard_draft') && ! Schema::hasTable('notifications'));
            self::assertEquals([9, 1], [DB::table('imports')->value('taken'), DB::table('imports')->value('set_aside')]);
            self::assertSame(['{"luck":{"workers":[1]}}', '{"ceiling":3}'], [DB::table('job_runs')->value('later'), DB::table('job_runs')->value('opinion')]);
        } finally {
            $migration->up();
        }
        self::assertSame($before, $this->shown($import->id));
        self::assertSame('field.pick', MaintenancePlan::query()->findOrFail($plan->id)->object);
        self::assertSame([['workers' => [1]], 3], [JobRun::query()->firstOrFail()->forecast['distribution'] ?? null, JobRun::query()->firstOrFail()->analysis['ceiling'] ?? null]);
        // What was read before the change is still known, so nothing counts twice.
        Artisan::call('telemetry:import', ['file' => $this->file($lines), '--cluster' => 'fernhill']);
        self::assertSame(9, $this->executions());
    }

    /**
     * @return list<int|string>
     */
    private function shown(string $import): array
    {
        $this->actingAs($this->person(Role::Owner));
        $page = fn (string $address): string => trim((string) preg_replace('~\s+~', ' ', strip_tags((string) preg_replace('~.*<main(.*?)</main>.*~s', '$1', (string) $this->get($address)->assertOk()->getContent()))));

        return [
            $this->executions(), (int) DB::table('load_by_origin_hour')->sum('executions'), Import::query()->findOrFail($import)->accepted, Import::query()->findOrFail($import)->rejected,
            DB::table('rejected_records')->count(), DB::table('statement_presence')->count(), Subscription::query()->count(), Notification::query()->count(),
            $page('/tune/statements?cluster=fernhill&window=2026-11-20'), $page("/tune/imports/{$import}"), $page('/ledger/outbox'), $page('/tune/layout/maintenance'),
        ];
    }

    /**
     * @return array<string, mixed> nothing for every column that wants a value
     */
    private static function blanks(string $table): array
    {
        $blanks = [];
        foreach (Schema::getColumns($table) as $column) {
            if (! $column['nullable'] && ! $column['auto_increment'] && $column['default'] === null) {
                $blanks[$column['name']] = in_array($column['type_name'], ['varchar', 'char', 'text', 'longtext', 'mediumtext', 'blob'], true) ? '' : 0;
            }
        }

        return $blanks;
    }
}
