<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Access\Application\PolicyStore;
use App\Jobs\Models\JobRun;
use App\Ledger\Findings\FindingState;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Models\Notification;
use App\Ledger\Models\Subscription;
use App\Platform\Support\Role;
use App\Storage\Models\MaintenancePlan;
use App\Telemetry\Models\Import;
use Fulcrion\Core\Access\Policy\Kind;
use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\Crypt;
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
        $lines = array_map(
            static fn (int $i): array => [
                'started_at' => "2026-11-20T09:0{$i}:00Z",
                'duration_us' => 1000 * $i,
                'sql' => "SELECT crew FROM people.crew WHERE id = {$i}",
                'user' => "user {$i}",
                'application' => 'board',
            ],
            range(1, 9),
        );
        Artisan::call('telemetry:import', ['file' => $this->file([...$lines, 'not a record']), '--cluster' => 'fernhill']);
        $import = Import::query()->firstOrFail();
        Subscription::query()->create([
            'kind' => 'mail',
            'target' => 'team@brackenfold.example',
            'digest' => false,
            'paused' => false,
            'made_by' => 'Owner',
        ]);
        $plan = MaintenancePlan::query()->create(
            [
                'cluster_id' => $cluster->id,
                'object' => 'field.pick',
                'acts' => ['compact'],
                'cron' => '',
                'space_share' => 0.1,
                'made_by' => 'Owner',
            ] + self::blanks('maintenance_plans'),
        );
        DB::table('job_runs')->insert(
            [
                'cluster_id' => $cluster->id,
                'external_id' => 'a',
                'name' => 'nightly',
                'forecast' => '{"distribution":{"workers":[1]}}',
                'analysis' => '{"ceiling":3}',
            ] + self::blanks('job_runs'),
        );
        $before = $this->shown($import->id);
        self::assertSame([9, 9, 9, 1, 1, 1], array_slice($before, 0, 6));

        $migration = require database_path('migrations/2026_11_29_000000_names_of_the_field.php');
        assert($migration instanceof Migration && method_exists($migration, 'up') && method_exists($migration, 'down'));
        $later = require database_path('migrations/2026_11_29_500000_one_background_run.php');
        assert($later instanceof Migration && method_exists($later, 'up') && method_exists($later, 'down'));
        $heartbeatUs = Import::query()->firstOrFail()->heartbeat_us;
        self::assertGreaterThan(1_700_000_000_000_000, $heartbeatUs);
        $later->down();
        $migration->down();
        try {
            // As the version before has left it.
            self::assertTrue(
                Schema::hasTable('taken') &&
                    Schema::hasTable('sightings') &&
                    Schema::hasTable('guard_draft') &&
                    ! Schema::hasTable('notifications'),
            );
            self::assertEquals([9, 1], [DB::table('imports')->value('taken'), DB::table('imports')->value('set_aside')]);
            self::assertSame(
                ['{"luck":{"workers":[1]}}', '{"ceiling":3}'],
                [DB::table('job_runs')->value('later'), DB::table('job_runs')->value('opinion')],
            );
        } finally {
            $migration->up();
            $later->up();
        }
        self::assertSame($heartbeatUs, Import::query()->firstOrFail()->heartbeat_us);
        self::assertSame($before, $this->shown($import->id));
        self::assertSame('field.pick', MaintenancePlan::query()->findOrFail($plan->id)->object);
        self::assertSame(
            [['workers' => [1]], 3],
            [JobRun::query()->firstOrFail()->forecast['distribution'] ?? null, JobRun::query()->firstOrFail()->analysis['ceiling'] ?? null],
        );
        // What was read before the change is still known, so nothing counts twice.
        Artisan::call('telemetry:import', ['file' => $this->file($lines), '--cluster' => 'fernhill']);
        self::assertSame(9, $this->executions());
    }

    public function test_changes_that_wait_say_what_they_will_run_and_how_they_are_undone_as_of_today(): void
    {
        $cluster = $this->cluster();
        $old = 'CREATE TABLE "a"."b__new_1" ("n" bigint) WITH (distribution = hash("n"), clustering = ("n"), chunk_rows = 100)';
        $kept = [
            'rebuild' => [[$old], ['RENAME TABLE "a"."b" TO "c"'], 'layout'],
            'maintain' => [['MAINTAIN TABLE a.b WITH (action = compact)'], ['revert'], 'version'],
            'statistics' => [['ANALYZE TABLE a.b'], [], 'none'],
            'prepare' => [['CREATE ROLLUP a.r AS SELECT n, count(*) FROM a.b GROUP BY n'], ['DROP ROLLUP a.r'], 'statements'],
            'access' => [['CREATE ROLE x'], [''], 'statements'],
        ];
        foreach ($kept as $kind => [$steps, $inverse]) {
            DB::table('changes')->insert(
                [
                    'cluster_id' => $cluster->id,
                    'object' => 'a.b',
                    'kind' => $kind,
                    'sealed_steps' => Crypt::encryptString((string) json_encode($steps)),
                    'sealed_inverse' => Crypt::encryptString((string) json_encode($inverse)),
                    'expected' => '{"savedUs":0,"savedBytes":0,"costUs":0,"costBytes":0,"worse":[],"definition":null,"before":null,'
                        .'"statement":""}',
                    'workload' => '[]',
                    'state' => 'proposed',
                ] + self::blanks('changes'),
            );
        }
        $this->migrate('2026_11_29_100000_layouts_as_clauses');
        Schema::table('changes', static fn (Blueprint $table) => $table->dropColumn('inverse'));
        $this->migrate('2026_11_29_300000_how_changes_are_undone');
        /** @var list<Change> $changes */
        $changes = Change::query()->orderBy('id')->get()->all();
        self::assertSame(array_column($kept, 2), array_map(static fn (Change $change): string => $change->inverse->value, $changes));
        self::assertSame(
            ['rebuild', 'maintain', 'statistics', 'rollups', 'access'],
            array_map(static fn (Change $change): string => $change->kind, $changes),
        );
        self::assertSame(
            ['CREATE TABLE "a"."b__new_1" ("n" bigint) PLACED BY (n) SORTED BY (n) CHUNKS OF 100 ROWS'],
            $changes[0]->sealed_steps,
        );
        self::assertSame(
            [[], ['DROP ROLLUP a.r'], []],
            [$changes[1]->sealed_inverse, $changes[3]->sealed_inverse, $changes[4]->sealed_inverse],
        );
        $this->actingAs($this->person(Role::Owner));
        foreach ($changes as $change) {
            $this->get("/ledger/changes/{$change->id}")->assertOk();
        }
    }

    public function test_findings_and_maintenance_that_wait_are_called_as_today(): void
    {
        $cluster = $this->cluster();
        $migration = require database_path('migrations/2026_11_30_100000_words_of_findings.php');
        assert($migration instanceof Migration && method_exists($migration, 'up') && method_exists($migration, 'down'));
        $migration->down();
        $statements = ['steps' => ['MAINTAIN TABLE a.b WITH (act = expire, days = 7)', 'ANALYZE TABLE a.b'], 'inverse' => []];
        foreach (['waived', 'open'] as $i => $state) {
            DB::table('findings')->insert(
                [
                    'cluster_id' => $cluster->id,
                    'digest' => $state,
                    'state' => $state,
                    'waived_until_us' => $i === 0 ? 5 : null,
                    'sealed_statements' => Crypt::encryptString((string) json_encode($statements)),
                    'evidence' => Crypt::encryptString('[]'),
                    'severity' => 'act',
                    'source' => 'storage',
                ] + self::blanks('findings'),
            );
        }
        $migration->up();
        $findings = Finding::query()->orderBy('id')->get();
        self::assertSame([[FindingState::Dismissed, 5], [FindingState::Open, null]], [
            [$findings[0]?->state, $findings[0]?->dismissed_until_us],
            [$findings[1]?->state, $findings[1]?->dismissed_until_us],
        ]);
        self::assertSame(
            ['MAINTAIN TABLE a.b WITH (action = expire, days = 7)', 'ANALYZE TABLE a.b'],
            $findings[0]?->sealed_statements['steps'] ?? null,
        );
    }

    public function test_policies_of_the_version_before_are_read(): void
    {
        $rule = [
            'scope' => 'estate',
            'for' => ['everyone'],
            'when' => "has_below('personal') AND NOT has_label('pay', 'secret')",
            'effect' => 'hide',
        ];
        $document = ['vocabulary' => ['personal' => ['description' => 'd'], 'pay' => ['description' => 'd']], 'rules' => ['hide' => $rule]];
        DB::table('policy_versions')->insert([
            'number' => 1,
            'made_us' => 1,
            'made_by' => 'x',
            'comment' => '',
            'document' => (string) json_encode($document),
        ]);
        DB::table('policy_drafts')->insert([
            'kind' => 'rules',
            'name' => 'hide',
            'fields' => (string) json_encode($rule),
            'revision' => 1,
            'edited_by' => 'x',
            'edited_us' => 1,
        ]);
        DB::table('policy_drafts')->insert([
            'kind' => 'rules',
            'name' => 'gone',
            'fields' => null,
            'revision' => 1,
            'edited_by' => 'x',
            'edited_us' => 1,
        ]);
        $this->migrate('2026_11_29_200000_conditions_on_labels');
        $now = "labelled_below('personal') AND NOT (labelled('pay') AND label('pay') = 'secret')";
        self::assertSame($now, app(PolicyStore::class)->published()->find(Kind::Rules, 'hide')?->text('when'));
        self::assertSame(
            ['scope', 'for', 'when', 'effect'],
            array_keys((array) json_decode((string) DB::table('policy_drafts')->where('name', 'hide')->value('fields'), true)),
        );
        self::assertStringContainsString('labelled_below', (string) DB::table('policy_drafts')->where('name', 'hide')->value('fields'));
    }

    private function migrate(string $name): void
    {
        $migration = require database_path("migrations/{$name}.php");
        assert($migration instanceof Migration && method_exists($migration, 'up'));
        $migration->up();
    }

    /**
     * @return list<int|string>
     */
    private function shown(string $import): array
    {
        $this->actingAs($this->person(Role::Owner));
        $page = fn (string $address): string => trim(
            (string) preg_replace(
                '~\s+~',
                ' ',
                strip_tags(
                    (string) preg_replace('~.*<main(.*?)</main>.*~s', '$1', (string) $this->get($address)->assertOk()->getContent()),
                ),
            ),
        );

        return [
            $this->executions(),
            (int) DB::table('load_by_origin_hour')->sum('executions'),
            Import::query()->findOrFail($import)->accepted,
            Import::query()->findOrFail($import)->rejected,
            DB::table('rejected_records')->count(),
            DB::table('statement_presence')->count(),
            Subscription::query()->count(),
            Notification::query()->count(),
            $page('/tune/statements?cluster=fernhill&window=2026-11-20'),
            $page("/tune/imports/{$import}"),
            $page('/ledger/outbox'),
            $page('/tune/layout/maintenance'),
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
                $blanks[$column['name']] = in_array(
                    $column['type_name'],
                    ['varchar', 'char', 'text', 'longtext', 'mediumtext', 'blob'],
                    true,
                )
                    ? ''
                    : 0;
            }
        }

        return $blanks;
    }
}
