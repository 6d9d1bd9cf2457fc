<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Access\Application\Draft;
use App\Access\Application\PolicyFile;
use App\Access\Application\PolicyStore;
use App\Access\Application\Provisioner;
use App\Access\Application\Publisher;
use App\Access\Models\AccessRequest;
use App\Access\Models\DecisionRecord;
use App\Access\Models\PolicyVersion;
use App\Estate\Connectors\Connectors;
use App\Estate\Connectors\MariaDbAccess;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Change;
use App\Ledger\Models\LedgerEntry;
use App\Ledger\Models\Notification;
use App\Platform\Models\User;
use App\Platform\Support\Role;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\DocumentSchema;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Provisioning\MariaDbScript;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Tools\Demo\DemoPolicy;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Str;
use Illuminate\Testing\TestResponse;
use Opis\JsonSchema\Validator;
use Tests\TestCase;

final class GuardTest extends TestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        config(['fulcrion.practice' => sys_get_temp_dir().'/guard-'.getmypid()]);
        $root = PracticeClusters::root('fernhill');
        exec('rm -rf '.escapeshellarg(dirname($root)));
        mkdir(dirname($root), 0o700, true);
        $engine = new Engine(Warehouse::create($root, 'Fernhill', 2, new HardwareProfile()));
        foreach (
            [
                'CREATE SCHEMA people',
                'CREATE TABLE people.crew (id bigint, name text, phone text, wage bigint)',
                "INSERT INTO people.crew VALUES (1, 'Ada Brook', '555-0104417', 2100), (2, 'Finn Holm', '555-0104418', 1900)",
                'CREATE VIEW people.list AS SELECT id, name FROM people.crew',
            ] as $sql
        ) {
            $engine->run($sql, new Session('people', 'test', 1), new Limits(30, 1000, null, static fn (): int => (int) hrtime(true)));
        }
        Cluster::query()->create([
            'slug' => 'fernhill',
            'name' => 'Fernhill',
            'role' => 'production',
            'connector' => 'practice',
            'dialect' => Dialect::Ansi,
        ]);
        $this->beforeApplicationDestroyed(static fn () => exec('rm -rf '.escapeshellarg(dirname($root))));
    }

    /**
     * @param  array<string, array<string, array<string, mixed>>>  $more
     */
    private function publish(array $more = []): void
    {
        $data = [
            'people' => [
                'engineer' => ['roles' => ['crew'], 'attributes' => ['team' => 'crew']],
                'viewer' => ['roles' => []],
                'steward' => [],
            ],
            'roles' => ['crew' => [], 'keepers' => []],
            'owners' => ['estate' => ['owner' => 'role:keepers']],
            'grants' => [
                'crew' => ['effect' => 'allow', 'privileges' => ['use', 'select'], 'on' => 'fernhill.people', 'to' => ['role:crew']],
            ],
            'vocabulary' => ['personal' => ['description' => 'names somebody', 'values' => ['direct'], 'assigners' => ['role:keepers']]],
            'labels' => [
                'fernhill.people.crew.phone personal' => ['on' => 'fernhill.people.crew.phone', 'key' => 'personal', 'value' => 'direct'],
            ],
            'masks' => ['end' => ['shows' => 'last characters', 'count' => 2]],
            'rules' => [
                'mask' => [
                    'scope' => 'estate',
                    'for' => ['everyone'],
                    'when' => "labelled_below('personal')",
                    'effect' => 'mask',
                    'mask' => 'end',
                ],
            ],
        ];
        foreach ($more as $kind => $items) {
            $data[$kind] = $items + ($data[$kind] ?? []);
        }
        $document = Document::read($data);
        self::assertInstanceOf(Document::class, $document);
        app(Publisher::class)->seed($document, 'first');
        app(PolicyStore::class)->forget();
    }

    private function drafted(Kind $kind, string $name): Item
    {
        return app(Draft::class)->document()->find($kind, $name) ?? self::fail("no {$name}");
    }

    /**
     * @return TestResponse<\Symfony\Component\HttpFoundation\Response>
     */
    private function runSql(string $sql, Role $role = Role::Engineer): TestResponse
    {
        return $this->actingAs($this->person($role))->post('/tune/workbench/runs', [
            'cluster' => 'fernhill',
            'schema' => 'people',
            'sql' => $sql,
            'mode' => 'run',
            'key' => (string) Str::uuid(),
            'which' => 'one',
        ]);
    }

    public function test_the_practice_cluster_runs_what_the_policy_makes_of_a_statement_and_records_it(): void
    {
        $this->runSql('SELECT phone FROM people.crew')->assertOk()->assertSee('555-0104417');
        $this->publish();
        $this->runSql('SELECT phone FROM people.crew ORDER BY id')->assertOk()->assertSee('***17')->assertDontSee('555-0104417');
        $this->runSql("SELECT id FROM people.crew WHERE phone = '555-0104417'")->assertOk()->assertSee('0 rows');
        $this->runSql('EXPLAIN SELECT phone FROM people.crew')->assertOk();
        $this->runSql('DROP TABLE people.crew')->assertOk()->assertSee('Access is refused')->assertSee('/guard/decisions/');
        $this->runSql('SELECT phone FROM people.crew', Role::Owner)->assertOk()->assertSee('555-0104417');
        self::assertSame(
            ['allowed', 'masked', 'masked', 'masked', 'refused', 'refused'],
            DecisionRecord::query()->orderBy('id')->pluck('outcome')->all(),
        );
        self::assertSame('workbench as owner', DecisionRecord::query()->orderByDesc('id')->value('source'));
        $refused = DecisionRecord::query()->where('outcome', 'refused')->where('subject', 'person:engineer')->firstOrFail();
        $this->actingAs($this->person(Role::Engineer))
            ->get("/guard/decisions/{$refused->id}")
            ->assertOk()
            ->assertSee('No grant of drop');
        $this->actingAs($this->person(Role::Viewer))
            ->get("/guard/decisions/{$refused->id}")
            ->assertNotFound();
        $this->actingAs($this->person(Role::Steward))->get('/guard/decisions/export?outcome=refused')->assertOk();
        // A table made a moment ago is known, and so is its owner's lack of rights on it.
        $this->runSql('CREATE TABLE people.own (x bigint)')->assertSee('No grant of create');
    }

    public function test_two_stewards_at_one_rule_and_nothing_is_overwritten_silently(): void
    {
        $this->publish();
        $steward = $this->person(Role::Steward);
        $other = User::query()->create([
            'name' => 'Second',
            'email' => 'second@brackenfold.example',
            'password' => 'a long password',
            'role' => Role::Steward,
        ]);
        $fields = [
            'scope' => 'fernhill.people',
            'for' => 'everyone',
            'effect' => 'mask',
            'mask' => 'end',
            'when' => "labelled('personal')",
        ];
        $save = fn (User $user, array $with, int $revision): TestResponse => $this->actingAs($user)->post('/guard/policy/rules/item', [
            'name' => 'mask',
            'was' => 'mask',
            'revision' => $revision,
            'fields' => $with + $fields,
        ]);
        $this->actingAs($steward)->get('/guard/policy/rules/item?name=mask')->assertOk()->assertSee('name="revision" value="0"', false);
        $save($steward, ['description' => 'first'], 0)->assertRedirect('/guard/policy/rules');
        $save($other, ['description' => 'second'], 0)
            ->assertOk()
            ->assertSee($steward->name.' has changed this meanwhile')
            ->assertSee('first')
            ->assertSee('second')
            ->assertSee('name="revision" value="1"', false);
        self::assertSame('first', $this->drafted(Kind::Rules, 'mask')->text('description'));
        $save($other, ['description' => 'second'], 1)->assertRedirect('/guard/policy/rules');
        self::assertSame('second', $this->drafted(Kind::Rules, 'mask')->text('description'));
        $this->actingAs($steward)
            ->post('/guard/policy/rules/remove', ['name' => 'mask', 'revision' => 1])
            ->assertSessionHas('failed');
    }

    public function test_a_draft_is_published_as_it_was_looked_at_and_can_be_brought_back(): void
    {
        $this->publish();
        $steward = $this->person(Role::Steward);
        $this->actingAs($steward)
            ->post('/guard/policy/roles/item', ['name' => 'crew', 'was' => 'crew', 'revision' => 0, 'fields' => ['includes' => 'keepers']])
            ->assertRedirect();
        $this->actingAs($steward)
            ->post('/guard/policy/roles/item', [
                'name' => 'keepers',
                'was' => 'keepers',
                'revision' => 0,
                'fields' => ['includes' => 'crew'],
            ])
            ->assertOk()
            ->assertSee('leads back to itself')
            ->assertSee('crew &gt; keepers &gt; crew', false);
        $digest = app(Publisher::class)->digest();
        $this->actingAs($steward)
            ->post('/guard/policy/people/remove', ['name' => 'viewer', 'revision' => 0])
            ->assertRedirect();
        $this->actingAs($steward)
            ->post('/guard/draft/publish', ['comment' => 'why not', 'digest' => $digest])
            ->assertSessionHas('failed');
        self::assertSame(1, app(PolicyStore::class)->number());
        $this->actingAs($steward)->get('/guard/draft/radius')->assertOk()->assertSee('engineer');
        $this->actingAs($steward)
            ->post('/guard/draft/publish', ['comment' => 'crew looks after all', 'digest' => app(Publisher::class)->digest()])
            ->assertRedirect();
        self::assertSame(['first', 'crew looks after all'], PolicyVersion::query()->orderBy('number')->pluck('comment')->all());
        self::assertTrue(app(Draft::class)->isEmpty());
        $change = Change::query()->where('kind', Provisioner::POLICY)->firstOrFail();
        $this->actingAs($steward)
            ->get("/ledger/changes/{$change->id}")
            ->assertOk()
            ->assertSee('Version 2');
        $this->actingAs($steward)
            ->get('/ledger/proofs/'.$change->latestProof('applied')?->id.'/file')
            ->assertOk()
            ->assertSee('Statements of the last four weeks');
        $this->actingAs($this->person(Role::Engineer))
            ->post("/ledger/changes/{$change->id}/undo")
            ->assertForbidden();
        User::query()
            ->whereKey($this->person(Role::Viewer)->id)
            ->update(['name' => $steward->name]);
        User::query()
            ->whereKey($this->person(Role::Owner)->id)
            ->update(['name' => $steward->name]);
        $this->actingAs($steward)
            ->post("/ledger/changes/{$change->id}/undo")
            ->assertRedirect();
        self::assertSame([], app(PolicyStore::class)->version(1)?->changesTo(app(PolicyStore::class)->published()));
        self::assertSame(1, PolicyVersion::query()->find(3)?->restored);
        // Whoever bears the same name has nothing to do with it.
        self::assertSame(
            $steward->id,
            LedgerEntry::query()->where('act', 'brought a policy back')->orderByDesc('number')->first()?->user_id,
        );
        self::assertSame($steward->id, $change->refresh()->acting_id);
        $this->actingAs($steward)->get('/guard/versions/compare?a=1&b=2')->assertOk()->assertSee('Role crew')->assertSee('Person viewer');
    }

    public function test_who_is_taken_out_leaves_the_items_that_named_them(): void
    {
        $this->publish([
            'grants' => [
                'one' => ['effect' => 'allow', 'privileges' => ['select'], 'on' => 'fernhill', 'to' => ['person:viewer']],
                'two' => ['effect' => 'allow', 'privileges' => ['select'], 'on' => 'fernhill', 'to' => ['person:viewer', 'role:crew']],
            ],
        ]);
        $this->actingAs($this->person(Role::Steward))
            ->post('/guard/policy/people/remove', ['name' => 'viewer', 'revision' => 0])
            ->assertRedirect();
        $document = app(Draft::class)->document();
        self::assertNull($document->find(Kind::Grants, 'one'));
        self::assertSame(['role:crew'], $document->find(Kind::Grants, 'two')?->texts('to'));
    }

    public function test_controlled_keys_are_used_as_their_vocabulary_says(): void
    {
        $this->publish();
        $label = static fn (string $key, string $value): array => [
            'name' => '',
            'was' => '',
            'revision' => 0,
            'fields' => ['on' => 'fernhill.people.crew.name', 'key' => $key, 'value' => $value],
        ];
        $steward = $this->actingAs($this->person(Role::Steward));
        $steward
            ->post('/guard/policy/labels/item', $label('personal', 'yes'))
            ->assertOk()
            ->assertSee('not in the vocabulary of personal; allowed: direct');
        $steward
            ->post('/guard/policy/labels/item', $label('personal', 'direct'))
            ->assertOk()
            ->assertSee('may be assigned by role keepers only, and you are none of them');
        $steward->post('/guard/policy/labels/item', $label('our own word', 'yes'))->assertRedirect();
        // Nor can it be got around: by taking a label out, by an addition, by a file.
        $steward
            ->post('/guard/policy/labels/remove', ['name' => 'fernhill.people.crew.phone personal', 'revision' => 0])
            ->assertSessionHasErrors('value');
        $steward
            ->post('/guard/policy/vocabulary/remove', ['name' => 'personal', 'revision' => 0])
            ->assertRedirect('/guard/policy/vocabulary');
        $steward->post('/guard/draft/discard', ['kind' => 'vocabulary', 'name' => 'personal']);
        $steward
            ->post('/guard/try/add', [
                'back' => '/guard/draft',
                'items' => [
                    (string) json_encode([
                        'kind' => 'labels',
                        'name' => 'x',
                        'fields' => ['on' => 'fernhill.people.crew.name', 'key' => 'personal', 'value' => 'direct'],
                    ]),
                ],
            ])
            ->assertSessionHasErrors('value');
        $file = UploadedFile::fake()->createWithContent(
            'policy.yaml',
            str_replace('value: direct', 'value: indirect', PolicyFile::write(app(PolicyStore::class)->published(), 'yaml')),
        );
        $steward->post('/guard/policy-import', ['file' => $file])->assertSessionHasErrors('value');
        self::assertSame(
            ['our own word'],
            array_values(
                array_map(
                    static fn (Item $label): string => $label->text('key'),
                    array_filter(
                        app(Draft::class)->document()->all(Kind::Labels),
                        static fn (Item $label): bool => $label->text('key') !== 'personal',
                    ),
                ),
            ),
        );
        // A key is delegated: its assigner need be no steward, and may assign nothing else.
        $this->publish([
            'vocabulary' => [
                'domain' => ['description' => 'whose it is', 'values' => ['people'], 'assigners' => ['role:crew']],
                'personal' => ['description' => 'names somebody', 'values' => ['direct'], 'assigners' => ['role:keepers']],
            ],
        ]);
        $engineer = $this->actingAs($this->person(Role::Engineer));
        $engineer
            ->get('/guard/explain?object=fernhill.people.crew')
            ->assertOk()
            ->assertSee('Put a label here')
            ->assertDontSee('value="personal"', false);
        $engineer->post('/guard/labels/assign', ['on' => 'fernhill.people.crew', 'key' => 'domain', 'value' => 'people'])->assertRedirect();
        $engineer
            ->post('/guard/labels/assign', ['on' => 'fernhill.people.crew', 'key' => 'domain', 'value' => 'odd'])
            ->assertSessionHasErrors('value');
        $engineer
            ->post('/guard/labels/assign', ['on' => 'fernhill.people.crew', 'key' => 'personal', 'value' => 'direct'])
            ->assertForbidden();
        self::assertSame('people', $this->drafted(Kind::Labels, 'fernhill.people.crew domain')->text('value'));
        $this->actingAs($this->person(Role::Owner))
            ->post('/guard/labels/rename', ['from' => 'personal', 'to' => 'private'])
            ->assertRedirect();
        $document = app(Draft::class)->document();
        self::assertSame("labelled_below('private')", $document->find(Kind::Rules, 'mask')?->text('when'));
        self::assertNotNull($document->find(Kind::Vocabulary, 'private'));
        self::assertNull($document->find(Kind::Labels, 'fernhill.people.crew.phone personal'));
    }

    public function test_access_is_asked_for_and_answered_by_the_owner(): void
    {
        $this->publish([
            'owners' => ['fernhill.people' => ['owner' => 'role:crew'], 'estate' => ['owner' => 'role:keepers']],
            'products' => [
                'list' => [
                    'title' => 'List',
                    'purpose' => 'Call the crew',
                    'owner' => 'role:crew',
                    'audience' => ['keepers'],
                    'views' => ['fernhill.people.list'],
                    'published' => true,
                ],
            ],
        ]);
        $viewer = $this->person(Role::Viewer);
        $this->actingAs($viewer)->get('/guard/products')->assertOk()->assertSee('No data product has something for you yet');
        $this->actingAs($viewer)->get('/guard/products/list')->assertNotFound();
        $this->actingAs($this->person(Role::Engineer))->get('/guard/products/list')->assertOk()->assertSee('Ada Brook');
        $this->actingAs($viewer)
            ->post('/guard/requests', ['object' => 'fernhill.people.nothing', 'reason' => 'to call them'])
            ->assertSessionHasErrors('object');
        $this->actingAs($viewer)
            ->post('/guard/requests', ['object' => 'product:list', 'reason' => 'to call them', 'until' => '2099-01-01'])
            ->assertRedirect('/guard/requests');
        $ask = AccessRequest::query()->firstOrFail();
        $this->actingAs($viewer)
            ->post("/guard/requests/{$ask->id}/decide", ['answer' => 'approved'])
            ->assertForbidden();
        $this->actingAs($this->person(Role::Engineer))
            ->post("/guard/requests/{$ask->id}/decide", ['answer' => 'declined'])
            ->assertSessionHasErrors('words');
        $this->actingAs($this->person(Role::Engineer))
            ->post("/guard/requests/{$ask->id}/decide", ['answer' => 'approved'])
            ->assertRedirect();
        self::assertSame(
            ['viewer@brackenfold.example', 'Your request for product:list was approved'],
            [Notification::query()->value('recipient'), Notification::query()->value('subject')],
        );
        $grants = array_filter(
            app(Draft::class)->document()->all(Kind::Grants),
            static fn ($grant): bool => $grant->texts('to') === ['person:viewer'],
        );
        self::assertEqualsCanonicalizing(
            ['fernhill.people', 'fernhill.people.list'],
            array_values(array_map(static fn ($grant): string => $grant->text('on'), $grants)),
        );
        self::assertSame(
            ['2099-01-01'],
            array_values(array_unique(array_map(static fn ($grant): string => $grant->text('until'), $grants))),
        );
    }

    public function test_a_policy_goes_out_and_in_as_a_file_and_is_checked_in_pipelines(): void
    {
        $document = DemoPolicy::document();
        foreach (PolicyFile::FORMATS as $format) {
            $text = PolicyFile::write($document, $format);
            $again = PolicyFile::read($text);
            self::assertInstanceOf(Document::class, $again);
            self::assertSame([], $document->changesTo($again));
            self::assertSame($text, PolicyFile::write($again, $format), 'the same policy is always the same text');
        }
        self::assertStringEqualsFile(
            base_path('docs/formats/policy.schema.json'),
            json_encode(DocumentSchema::toArray(), JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE)."\n",
            'the schema that is published is the one in force',
        );
        $validator = new Validator();
        $schema = json_decode((string) json_encode(DocumentSchema::toArray()));
        self::assertTrue($validator->validate(json_decode(PolicyFile::write($document, 'json')), $schema)->isValid());
        self::assertFalse(
            $validator
                ->validate((object) ['format' => Document::FORMAT, 'grants' => (object) ['x' => (object) ['effect' => 'maybe']]], $schema)
                ->isValid(),
        );
        self::assertSame(
            [
                'Line 4: Grant "x", field effect, has "maybe", which is none of allow, deny.',
                'Line 3: Grant "x", field to, is missing: who gets it.',
            ],
            PolicyFile::read("format: fulcrion-policy/1\ngrants:\n  x:\n    effect: maybe\n    privileges: [select]\n    on: fernhill\n"),
        );
        $read = PolicyFile::read("grants:\n  x: [1, 2\n");
        self::assertIsArray($read);
        self::assertStringStartsWith('Line 3: ', $read[0]);

        $this->publish();
        $file = tempnam(sys_get_temp_dir(), 'policy');
        file_put_contents($file, PolicyFile::write(app(PolicyStore::class)->published(), 'yaml'));
        self::assertSame(
            0,
            Artisan::call('access:check', ['file' => $file, '--as' => 'engineer', '--sql' => 'SELECT name FROM people.crew']),
        );
        self::assertSame(
            1,
            Artisan::call('access:check', ['file' => $file, '--as' => 'viewer', '--sql' => 'SELECT name FROM people.crew']),
        );
        self::assertStringContainsString('closed to viewer', Artisan::output());
        self::assertSame(2, Artisan::call('access:check', ['file' => '/nowhere']));
        file_put_contents($file, "rules:\n  odd:\n    scope: estate\n    for: [everyone]\n    when: label(\n    effect: hide\n");
        self::assertSame(2, Artisan::call('access:check', ['file' => $file]));
        self::assertStringContainsString('error: line 5: Rule "odd", field when, cannot be read', Artisan::output());
        unlink($file);
    }

    public function test_the_policy_is_written_to_a_live_mariadb_and_a_test_user_gets_what_it_says(): void
    {
        $config = config('database.connections.mariadb');
        $own = Cluster::query()
            ->create([
                'slug' => 'own',
                'name' => 'Own store',
                'role' => 'own',
                'connector' => 'mariadb',
                'dialect' => Dialect::MariaDb,
                'is_own' => true,
                'host' => '127.0.0.1',
                'port' => (int) $config['port'],
                'username' => 'x',
                'secret' => 'x',
            ])
            ->refresh();
        $access = app(Connectors::class)->access($own);
        self::assertInstanceOf(MariaDbAccess::class, $access);
        $access->apply([
            'CREATE OR REPLACE TABLE brackenfold_test.crew (id INT, name VARCHAR(40), phone VARCHAR(30), region VARCHAR(10))',
            "INSERT INTO brackenfold_test.crew VALUES (1, 'Ada', '555-0104417', 'north'), (2, 'Finn', NULL, 'south')",
            'CREATE OR REPLACE TABLE brackenfold_test.plain (x INT)',
            'INSERT INTO brackenfold_test.plain VALUES (7)',
            'CREATE OR REPLACE TABLE brackenfold_test.secret (x INT)',
            "CREATE USER IF NOT EXISTS 'guard_test_desk'@'localhost' IDENTIFIED BY 'x-".bin2hex(random_bytes(9))."'",
            'CREATE ROLE IF NOT EXISTS dock_test',
            'GRANT SELECT ON brackenfold_test.plain TO dock_test',
            "CREATE USER IF NOT EXISTS 'clerk_test'@'localhost' IDENTIFIED BY 'x-".bin2hex(random_bytes(9))."'",
            "GRANT dock_test TO 'clerk_test'@'localhost'",
        ]);
        $rest = [
            "DROP USER IF EXISTS 'guard_test_desk'@'localhost', 'clerk_test'@'localhost'",
            'DROP ROLE IF EXISTS dock_test',
            'DROP TABLE IF EXISTS brackenfold_test.crew, brackenfold_test.plain, brackenfold_test.secret',
        ];
        $clear = static fn () => $access->apply(MariaDbScript::statements($access->written(), [], []));
        $clear();
        $this->beforeApplicationDestroyed(static function () use ($access, $rest, $clear): void {
            $clear();
            $access->apply($rest);
        });
        $this->publish([
            'people' => ['clerk_test' => ['roles' => ['desk'], 'attributes' => ['region' => 'north']]],
            'roles' => ['desk' => [], 'crew' => [], 'keepers' => []],
            'grants' => [
                'desk' => ['effect' => 'allow', 'privileges' => ['use', 'select'], 'on' => 'own.brackenfold_test', 'to' => ['role:desk']],
                'not' => ['effect' => 'deny', 'privileges' => ['select'], 'on' => 'own.brackenfold_test.secret', 'to' => ['everyone']],
            ],
            'labels' => ['p' => ['on' => 'own.brackenfold_test.crew.phone', 'key' => 'personal', 'value' => 'direct']],
            'rules' => [
                'region' => [
                    'scope' => 'own.brackenfold_test.crew',
                    'for' => ['role:desk'],
                    'effect' => 'filter',
                    'filter' => "region = person('region')",
                ],
                'mask' => [
                    'scope' => 'estate',
                    'for' => ['everyone'],
                    'when' => "labelled_below('personal')",
                    'effect' => 'mask',
                    'mask' => 'end',
                ],
            ],
        ]);
        $steward = $this->person(Role::Steward);
        $this->actingAs($steward)
            ->get('/guard/provisioning')
            ->assertOk()
            ->assertSee('dock_test')
            ->assertSee('statements would make live servers say');
        $this->actingAs($steward)->post('/guard/provisioning/own/propose')->assertRedirect();
        $change = Change::query()->where('kind', Provisioner::ACCESS)->firstOrFail();
        $step = function (string $act) use ($steward, $change): Change {
            $this->actingAs($steward)
                ->post("/ledger/changes/{$change->id}/{$act}")
                ->assertRedirect();
            $change->refresh();
            self::assertNull($change->error, (string) $change->error);

            return $change;
        };
        self::assertSame('rehearsed', $step('rehearse')->state->value);
        self::assertSame([], $access->written(), 'a rehearsal leaves nothing behind');
        $step('approve');
        self::assertSame('applied', $step('apply')->state->value);
        $proof = $change->latestProof('applied');
        self::assertTrue($proof?->holds);
        $lines = json_decode((string) $proof->measured, true);
        self::assertSame(['1 rows, masked or filtered', '1 rows', 'refused', 'refused'], array_column($lines, 'expected'));
        $this->actingAs($steward)
            ->get("/ledger/proofs/{$proof->id}")
            ->assertOk()
            ->assertSee('A test user signed in', false);
        self::assertStringStartsWith('guard_desk_', (string) array_key_first($access->written()));
        $this->actingAs($steward)->get('/guard/provisioning')->assertSee('Live servers say what the policy says');
        self::assertSame('undone', $step('undo')->state->value);
        self::assertSame([], $access->written());
        // What the server grants by itself, in the words of the policy.
        $this->actingAs($steward)->post('/guard/provisioning/own/read')->assertRedirect('/guard/draft');
        $document = app(Draft::class)->document();
        self::assertSame(
            'own.brackenfold_test.plain',
            $document->find(Kind::Grants, 'dock_test on own.brackenfold_test.plain')?->text('on'),
        );
        self::assertSame(['desk', 'dock_test'], $document->find(Kind::People, 'clerk_test')?->texts('roles'));
    }
}
