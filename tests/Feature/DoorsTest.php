<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Access\Application\Decisions;
use App\Access\Application\PolicyStore;
use App\Access\Application\Publisher;
use App\Access\Models\AccessRequest;
use App\Access\Models\DecisionRecord;
use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Models\LedgerEntry;
use App\Platform\Models\User;
use App\Platform\Support\Role;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Provisioning\MariaDbScript;
use Fulcrion\Core\Access\Provisioning\ProvisionedRole;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use Tests\TestCase;

/**
 * Who somebody is to the policy, what errors and plans tell, and what is recorded when they tell it.
 */
final class DoorsTest extends TestCase
{
    private Engine $engine;

    private Cluster $fernhill;

    protected function setUp(): void
    {
        parent::setUp();
        config(['fulcrion.practice' => sys_get_temp_dir().'/doors-'.getmypid()]);
        $root = PracticeClusters::root('fernhill');
        exec('rm -rf '.escapeshellarg(dirname($root)));
        mkdir(dirname($root), 0o700, true);
        $this->engine = new Engine(Warehouse::create($root, 'Fernhill', 2, new HardwareProfile()));
        foreach (
            [
                'CREATE SCHEMA people',
                'CREATE TABLE people.crew (id bigint, name text, phone text)',
                "INSERT INTO people.crew VALUES (1, 'Adabrook', '0155501044'), (2, 'Finnholm', '0155501045')",
                'ANALYZE TABLE people.crew',
            ] as $sql
        ) {
            $this->sql($sql);
        }
        $this->fernhill = Cluster::query()
            ->create([
                'slug' => 'fernhill',
                'name' => 'Fernhill',
                'role' => 'production',
                'connector' => 'practice',
                'dialect' => Dialect::Ansi,
            ])
            ->refresh();
        $this->beforeApplicationDestroyed(static fn () => exec('rm -rf '.escapeshellarg(dirname($root))));
    }

    private function sql(string $sql): void
    {
        $this->engine->run($sql, new Session('people', 'test', 1), new Limits(30, 1000, null, static fn (): int => (int) hrtime(true)));
    }

    /**
     * @param  array<string, array<string, mixed>>  $rules
     * @param  array<string, array<string, mixed>>  $people
     */
    private function publish(array $rules = [], array $people = []): void
    {
        $document = Document::read([
            'people' => $people + [
                'engineer' => ['roles' => ['crew']],
                'night' => ['title' => 'Night jobs', 'kind' => 'service', 'roles' => ['crew']],
                'viewer' => [],
            ],
            'roles' => ['crew' => [], 'keepers' => []],
            'owners' => ['estate' => ['owner' => 'role:keepers']],
            'grants' => [
                'crew' => ['effect' => 'allow', 'privileges' => ['use', 'select'], 'on' => 'fernhill.people', 'to' => ['role:crew']],
            ],
            'labels' => ['phones' => ['on' => 'fernhill.people.crew.phone', 'key' => 'personal', 'value' => 'direct']],
            'rules' => $rules,
            'masks' => ['end' => ['shows' => 'last characters', 'count' => 2]],
        ]);
        self::assertInstanceOf(Document::class, $document);
        app(Publisher::class)->seed($document, 'first');
        app(PolicyStore::class)->forget();
    }

    private function ask(User $user, string $sql, string $mode = 'run'): string
    {
        return (string) $this->actingAs($user)
            ->post('/tune/workbench/runs', [
                'cluster' => 'fernhill',
                'schema' => 'people',
                'sql' => $sql,
                'mode' => $mode,
                'key' => (string) Str::uuid(),
                'which' => 'one',
            ])
            ->assertOk()
            ->getContent();
    }

    public function test_an_account_is_nobody_to_the_policy_until_an_owner_binds_it(): void
    {
        $this->publish();
        // The address that was enough once.
        $user = User::query()
            ->create(['name' => 'Night', 'email' => 'night@elsewhere.example', 'password' => 'a long password', 'role' => Role::Engineer])
            ->refresh();
        self::assertSame('account:night@elsewhere.example', Decisions::subjectOf($user));
        self::assertStringContainsString('Access is refused', $this->ask($user, 'SELECT id FROM people.crew'));
        $this->actingAs($user)
            ->post('/guard/requests', ['object' => 'fernhill.people.crew', 'reason' => 'Nightly figures'])
            ->assertSessionHasErrors('object');
        self::assertSame(0, AccessRequest::query()->count());
        $owner = $this->person(Role::Owner);
        $this->actingAs($owner)->get('/people')->assertOk()->assertSee('Night jobs, service account');
        $bind = fn (User $who, string $to) => $this->actingAs($owner)->post("/people/{$who->id}", [
            'role' => $who->role->value,
            'policy_person' => $to,
        ]);
        $bind($user, 'nobody at all')->assertSessionHasErrors([
            'policy_person' => 'The policy in force knows nobody of that name; choose one of the list.',
        ]);
        $bind($user, 'night')->assertSessionHasNoErrors();
        self::assertSame('person:night', Decisions::subjectOf($user->refresh()));
        self::assertStringNotContainsString('Access is refused', $this->ask($user, 'SELECT id FROM people.crew'));
        $details = static fn (): string => (string) DB::table('ledger_entries')
            ->where('act', 'changed a person')
            ->orderByDesc('number')
            ->value('details');
        self::assertStringContainsString('"bound to":"night"', $details());
        $other = User::query()->create([
            'name' => 'Other',
            'email' => 'other@elsewhere.example',
            'password' => 'a long password',
            'role' => Role::Engineer,
        ]);
        $bind($other, 'night')->assertSessionHasErrors([
            'policy_person' => 'Another account is bound to that person already. Take it from there first.',
        ]);
        $bind($user, '')->assertSessionHasNoErrors();
        self::assertNull($user->refresh()->policy_person);
        self::assertStringContainsString('"bound to":"nobody"', $details());
        $this->actingAs($user)
            ->post("/people/{$user->id}", ['role' => 'owner', 'policy_person' => 'night'])
            ->assertForbidden();
    }

    public function test_an_error_tells_its_value_to_who_sees_the_column_and_is_revealed_to_a_steward_on_record(): void
    {
        $engineer = $this->person(Role::Engineer);
        $this->publish();
        self::assertStringContainsString(
            '0155501044',
            $this->ask($engineer, "SELECT id FROM people.crew WHERE CAST(concat('x', phone) AS bigint) > 0"),
            'nothing is kept from who asks',
        );
        $this->publish(['ends' => ['scope' => 'fernhill.people.crew', 'for' => ['everyone'], 'effect' => 'filter', 'filter' => 'id > 1']]);
        $said = $this->ask($engineer, "SELECT id FROM people.crew WHERE CAST(concat('x', phone) AS bigint) > 0");
        self::assertStringContainsString('is no whole number', $said);
        self::assertStringNotContainsString('0155501045', $said, 'no value at all where a part is kept back');
        $record = DecisionRecord::query()->whereNotNull('sealed_error')->orderByDesc('id')->firstOrFail();
        self::assertStringContainsString('0155501045', (string) $record->sealed_error);
        self::assertStringNotContainsString('0155501044', (string) $record->sealed_error, 'of a row that is not filtered away');
        self::assertStringNotContainsString(
            '0155501045',
            (string) DB::table('access_decisions')->where('id', $record->id)->value('sealed_error'),
            'encrypted as it is stored',
        );
        $steward = $this->person(Role::Steward);
        $this->actingAs($steward)
            ->get("/guard/decisions/{$record->id}")
            ->assertOk()
            ->assertDontSee('0155501045');
        $this->actingAs($engineer)
            ->post("/guard/decisions/{$record->id}/reveal")
            ->assertForbidden();
        $before = LedgerEntry::query()->count();
        $this->actingAs($steward)
            ->post("/guard/decisions/{$record->id}/reveal")
            ->assertOk()
            ->assertSee('0155501045');
        self::assertSame(
            ['revealed an error text', "decision {$record->id}"],
            [
                LedgerEntry::query()->orderByDesc('number')->firstOrFail()->act,
                LedgerEntry::query()->orderByDesc('number')->firstOrFail()->object,
            ],
        );
        self::assertSame($before + 1, LedgerEntry::query()->count());
        $this->actingAs($steward)
            ->get("/guard/decisions/{$record->id}")
            ->assertDontSee('0155501045');
    }

    public function test_a_refused_statement_kept_as_a_sample_gives_no_plan_of_its_raw_text(): void
    {
        $this->publish(['phones' => ['scope' => 'estate', 'for' => ['everyone'], 'when' => "labelled('personal')", 'effect' => 'hide']]);
        $engineer = $this->person(Role::Engineer);
        $samples = [
            "SELECT CAST(phone AS date) FROM people.crew WHERE phone = '0155501044'",
            "SELECT id FROM people.crew WHERE phone LIKE '01555%'",
        ];
        foreach ($samples as $sql) {
            self::assertStringContainsString('Access is refused', $this->ask($engineer, $sql));
        }
        $file = $this->file(
            array_map(
                static fn (string $sql, int $i): array => [
                    'started_at' => "2026-11-20T08:00:0{$i}Z",
                    'duration_us' => 9000,
                    'sql' => $sql,
                    'database' => 'people',
                    'user' => 'crew',
                ],
                $samples,
                [1, 2],
            ),
        );
        Artisan::call('telemetry:import', ['file' => $file, '--cluster' => 'fernhill']);
        $ids = DB::table('statements')->where('text', 'like', '%people.crew%')->pluck('fingerprint');
        self::assertGreaterThanOrEqual(2, $ids->count());
        foreach ($ids as $id) {
            foreach (['actual', 'explain'] as $mode) {
                $this->followingRedirects()
                    ->actingAs($engineer)
                    ->post("/tune/statements/{$id}/plan", ['cluster' => 'fernhill', 'mode' => $mode])
                    ->assertSee('is hidden for engineer')
                    ->assertDontSee('0155501044');
            }
        }
        self::assertSame(0, DB::table('plans')->count());
    }

    public function test_literals_of_plans_and_rewrites_are_shown_with_a_record_of_it(): void
    {
        // Samples are kept for some weeks after they were taken.
        $this->travelTo('2026-11-21 12:00:00 UTC');
        $engineer = $this->person(Role::Engineer);
        $viewer = $this->person(Role::Viewer);
        $this->publish([], ['viewer' => ['roles' => ['crew']]]);
        $this->ask($engineer, "SELECT id FROM people.crew WHERE name = 'Adabrook'", 'actual');
        $id = (int) DB::table('plans')->value('id');
        $this->actingAs($engineer)
            ->get("/tune/plans/{$id}")
            ->assertOk()
            ->assertDontSee('Adabrook');
        $this->actingAs($viewer)
            ->post("/tune/plans/{$id}/reveal")
            ->assertForbidden();
        $this->actingAs($engineer)
            ->post("/tune/plans/{$id}/reveal")
            ->assertRedirect("/tune/plans/{$id}");
        $this->actingAs($engineer)
            ->get("/tune/plans/{$id}")
            ->assertOk()
            ->assertSee('Adabrook');
        self::assertSame('revealed literals', LedgerEntry::query()->orderByDesc('number')->firstOrFail()->act);
        $file = $this->file([
            [
                'started_at' => '2026-11-20T08:00:01Z',
                'duration_us' => 9000,
                'sql' => "SELECT phone FROM people.crew WHERE name LIKE 'Finnholm%'",
                'database' => 'people',
                'user' => 'crew',
            ],
        ]);
        Artisan::call('telemetry:import', ['file' => $file, '--cluster' => 'fernhill']);
        $fingerprint = (string) DB::table('statements')->orderByDesc('id')->value('fingerprint');
        $before = LedgerEntry::query()->where('act', 'revealed literals')->count();
        $this->followingRedirects()
            ->actingAs($engineer)
            ->post('/tune/rewrites', ['cluster' => 'fernhill', 'fingerprint' => $fingerprint])
            ->assertOk()
            ->assertSee('Finnholm');
        self::assertSame($before + 1, LedgerEntry::query()->where('act', 'revealed literals')->count());
    }

    public function test_bounds_of_columns_are_shown_to_who_sees_the_columns_plainly(): void
    {
        $viewer = $this->person(Role::Viewer);
        $this->publish(
            [
                'phones' => [
                    'scope' => 'estate',
                    'for' => ['everyone'],
                    'when' => "labelled('personal')",
                    'effect' => 'mask',
                    'mask' => 'end',
                ],
            ],
            ['viewer' => ['roles' => ['crew']]],
        );
        foreach (['id', 'phone', 'name'] as $column) {
            $page = (string) $this->actingAs($viewer)
                ->get("/tune/layout/fernhill/people.crew?column={$column}")
                ->assertOk()
                ->getContent();
            foreach (['0155501044', '0155501045', 'Adabrook'] as $value) {
                self::assertStringNotContainsString($value, $page, $column);
            }
        }
        $this->publish(
            ['phones' => ['scope' => 'fernhill.people.crew', 'for' => ['everyone'], 'effect' => 'deny']],
            ['viewer' => ['roles' => ['crew']]],
        );
        $this->actingAs($viewer)->get('/tune/layout/fernhill/people.crew?column=id')->assertOk()->assertDontSee('Adabrook');
    }

    public function test_warnings_of_a_written_view_tell_of_no_row_that_is_filtered_away(): void
    {
        $store = (string) config('database.connections.mariadb.database');
        DB::statement('CREATE OR REPLACE TABLE doors_crew (id INT, name VARCHAR(40), region VARCHAR(10))');
        DB::statement("INSERT INTO doors_crew VALUES (1, 'Adabrook', 'north'), (2, 'Finnholm', 'south')");
        $view = "`{$store}`.`guard_doors_crew`";
        $role = new ProvisionedRole(
            'guard_doors',
            [],
            [],
            [$view => "SELECT id, name FROM {$store}.doors_crew WHERE region = 'north' AND 'written as 0123456789abcdef' <> ''"],
        );
        $sql = array_values(
            array_filter(
                MariaDbScript::statements([], ['guard_doors' => $role], []),
                static fn (string $one): bool => str_contains($one, 'VIEW'),
            ),
        );
        self::assertCount(1, $sql);
        try {
            DB::statement($sql[0]);
            self::assertSame([], DB::select("SELECT id FROM {$view} WHERE name + 0 > 5 OR CAST(name AS DATE) > '2000-01-01'"));
            $warnings = (string) json_encode(DB::select('SHOW WARNINGS'));
            self::assertStringContainsString('Adabrook', $warnings, 'the server does warn');
            self::assertStringNotContainsString('Finnholm', $warnings);
        } finally {
            DB::statement("DROP VIEW IF EXISTS {$view}");
            DB::statement('DROP TABLE IF EXISTS doors_crew');
        }
    }

    public function test_a_system_actor_says_who_it_is_and_a_person_is_decided_about(): void
    {
        $this->publish();
        $engineer = $this->person(Role::Engineer);
        $clusters = app(Clusters::class);
        $sql = 'SELECT id FROM people.crew';
        self::assertCount(
            2,
            $clusters->as(Actor::system(SystemActor::Audit, 'a test'))->runner($this->fernhill)?->run($sql, 'people')->result->rows ?? [],
        );
        self::assertSame(0, DecisionRecord::query()->count());
        self::assertCount(2, $clusters->for($engineer, 'test')->runner($this->fernhill)?->run($sql, 'people')->result->rows ?? []);
        self::assertSame(['test', 'person:engineer'], array_values(DecisionRecord::query()->firstOrFail()->only('source', 'subject')));
        $runner = $clusters->for($this->person(Role::Viewer), 'test')->runner($this->fernhill) ?? self::fail();
        $ways = [
            'run' => static fn () => $runner->run($sql, 'people'),
            'plan' => static fn () => $runner->plan($sql, 'people', true),
            'rewrites' => static fn () => $runner->rewrites($sql, 'people'),
            'estimatedRows' => static fn () => $runner->estimatedRows($sql, 'people'),
            'measureWithout' => static fn () => $runner->measureWithout($sql, 'people', null),
        ];
        foreach ($ways as $way => $call) {
            try {
                $call();
                self::fail("{$way} asked nobody.");
            } catch (SourceError $error) {
                self::assertStringContainsString('closed to viewer', $error->getMessage(), $way);
            }
        }
        foreach (SystemActor::cases() as $actor) {
            self::assertNotSame('', $actor->describe());
            self::assertSame($actor->value, Actor::system($actor, 'x')->name());
        }
    }
}
