<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Authorization\QueryAuthorizer;
use App\Estate\Connectors\Connectors;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\ChangeAction;
use App\Ledger\Changes\ChangeRunner;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Changes\ChosenStatements;
use App\Ledger\Changes\Inverse;
use App\Ledger\Changes\Proposal;
use App\Ledger\Changes\Refused;
use App\Ledger\Ledger;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Models\LedgerEntry;
use App\Ledger\Models\Notification;
use App\Ledger\Models\ProofRecord;
use App\Ledger\Models\Subscription;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Storage\Application\CollectStatistics;
use App\Storage\Application\Proposals;
use App\Storage\Application\StatisticsRound;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Proofs\ProofLine;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\Partitioning;
use Fulcrion\Core\Storage\TableChangeKind;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Manifest;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\Http;
use Illuminate\Support\Facades\Queue;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\TestWith;
use Tests\StepsOfChanges;
use Tests\TestCase;

/**
 * From finding to proof on a small cluster, on good days and bad ones.
 */
#[Group('today')]
final class ChangeTest extends TestCase
{
    use StepsOfChanges;

    private const SQL = "SELECT bay, sum(kilos) AS kilos FROM field.pick WHERE picked_at >= timestamp '2026-11-01 00:00:00' GROUP BY bay";

    private Cluster $home;

    private Warehouse $warehouse;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-20 10:02:00');
        Queue::fake();
        $root = sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4));
        config(['fulcrion.practice' => $root]);
        mkdir($root);
        $this->home = $this->cluster();
        $this->home->update(['connector' => 'practice']);
        Cluster::query()->create([
            'slug' => 'wren',
            'name' => 'Wren',
            'role' => 'rehearsal',
            'connector' => 'practice',
            'dialect' => Dialect::Ansi,
        ]);
        // The scale of the model makes a few thousand rows matter.
        $this->warehouse = Warehouse::create(
            PracticeClusters::root('fernhill'),
            'Fernhill',
            4,
            new HardwareProfile(rowFactor: 10_000, chunkOpenUs: 8000),
        );
        Warehouse::create(PracticeClusters::root('wren'), 'Wren', 2, new HardwareProfile(rowFactor: 10_000));
        $this->warehouse->createSchema('field');
        $this->sql(
            'CREATE TABLE field.pick (bay bigint NOT NULL, grade text NOT NULL, kilos bigint, picked_at timestamp NOT NULL) PLACED BY '
                .'(grade) CHUNKS OF 4096 ROWS',
        );
        $values = 'VALUES '.implode(', ', array_map(static fn (int $i): string => "({$i})", range(0, 149)));
        $this->sql(
            "INSERT INTO field.pick SELECT a.x, CASE WHEN b.x < 110 THEN 'A' ELSE 'B' END, a.x * b.x % 97, timestamp '2026-11-01 "
                ."00:00:00' + INTERVAL b.x HOUR FROM ({$values}) a (x) CROSS JOIN ({$values}) b (x)",
        );
        $this->send(range(1, 40));
        $this->actingAs($this->person(Role::Engineer));
        Artisan::call('storage:audit', ['cluster' => 'fernhill']);
    }

    protected function tearDown(): void
    {
        $this->warehouse->destroy();
        Warehouse::open(PracticeClusters::root('wren'))->destroy();
        @rmdir((string) config('fulcrion.practice'));
        Carbon::setTestNow();
        parent::tearDown();
    }

    public function test_a_finding_is_proposed_rehearsed_approved_applied_proven_and_undone(): void
    {
        $finding = $this->finding('skew');
        self::assertSame('open', $finding->state->value);
        $before = $this->warehouse->table('field', 'pick')?->checksum();
        $this->post("/tune/layout-findings/{$finding->id}/propose")->assertRedirectContains('/ledger/changes/');
        $change = Change::query()->firstOrFail();
        self::assertSame('accepted', $finding->refresh()->state->value);
        $this->get("/ledger/changes/{$change->id}")
            ->assertOk()
            ->assertSee('Rehearse')
            ->assertSee('INSERT INTO')
            ->assertSee('SUM(kilos)');
        $this->post("/ledger/changes/{$change->id}/approve")->assertSessionHas('failed');

        $this->act($change, ChangeAction::Rehearse);
        self::assertSame('rehearsed', $change->refresh()->state->value, (string) $change->error);
        self::assertSame([], Warehouse::open(PracticeClusters::root('wren'))->schemas(), 'the rehearsal cleared up');
        $proof = $change->latestProof('rehearsal');
        self::assertTrue($proof?->holds);
        $this->post("/ledger/changes/{$change->id}/approve")->assertSessionHasNoErrors();
        $this->act($change->refresh(), ChangeAction::Apply);
        self::assertSame('applied', $change->refresh()->state->value, (string) $change->error);
        self::assertSame($before, $this->warehouse->table('field', 'pick')?->checksum());
        self::assertSame('evenly', $this->warehouse->table('field', 'pick')->manifest()->definition->distribution->describe());
        $applied = $change->latestProof('applied') ?? self::fail();
        self::assertTrue($applied->holds);
        self::assertGreaterThan(1.3, $applied->factor);
        $this->get("/ledger/proofs/{$applied->id}")
            ->assertOk()
            ->assertSee('same rows');
        $file = $this->get("/ledger/proofs/{$applied->id}/file")
            ->assertOk()
            ->assertHeader('Content-Disposition', "attachment; filename=\"proof-{$applied->id}.html\"");
        self::assertDoesNotMatchRegularExpression('~(src|href)=~', (string) $file->getContent(), 'it needs nothing else');
        self::assertStringNotContainsString('2026-11-01 00:00:00', (string) $file->getContent(), 'no values of statements');
        self::assertSame('solved', $finding->refresh()->state->value, 'the table was held against the rules again');

        $this->act($change, ChangeAction::Undo);
        self::assertSame('undone', $change->refresh()->state->value, (string) $change->error);
        self::assertSame($before, $this->warehouse->table('field', 'pick')?->checksum());
        self::assertSame('by grade', $this->warehouse->table('field', 'pick')->manifest()->definition->distribution->describe());
        self::assertSame(['pick'], $this->warehouse->tables('field'), 'nothing is left over');
        self::assertSame('open', $finding->refresh()->state->value);
        self::assertNull(app(Ledger::class)->verify()['brokenAt']);
    }

    public function test_a_write_is_measured_on_copies_and_never_on_the_table_itself(): void
    {
        $insert = "INSERT INTO pick (bay, grade, kilos, picked_at) VALUES (7000, 'C', 12, timestamp '2026-11-19 08:00:00')";
        $this->send(range(1, 50), $insert, '2026-11-19T09', 2_000_000);
        $read = app(ChosenStatements::class);
        $rows = $this->warehouse->table('field', 'pick')?->manifest()->rows();
        $change = $this->rehearsed();
        self::assertSame(['INSERT INTO pick(bay, grade, kilos, picked_at) VALUES (?, ?, ?, ?)'], array_map(
            static fn (array $one): string => preg_replace('~TIMESTAMP \?~i', '?', $one['text']) ?? '',
            $read->writing($change),
        ));
        self::assertNotContains($insert, array_column($read->of($change), 'sql'), 'nothing writes among what is run to read');
        $lines = static fn (?ProofRecord $proof): array => array_map(
            static fn (ProofLine $line): array => [$line->isWrite(), $line->equal(), $line->failed(), $line->before->rows],
            $proof?->proof()->lines ?? [],
        );
        $expected = [[false, true, false, 150], [true, true, false, 1]];
        self::assertEqualsCanonicalizing($expected, $lines($change->latestProof('rehearsal')), (string) $change->error);
        app(Changes::class)->approve($change, $this->person(Role::Engineer));
        $this->act($change, ChangeAction::Apply);
        $applied = $change->refresh()->latestProof('applied') ?? self::fail((string) $change->error);
        self::assertEqualsCanonicalizing($expected, $lines($applied));
        self::assertTrue($applied->holds);
        self::assertSame($rows, $this->warehouse->table('field', 'pick')?->manifest()->rows(), 'no row of it is in the table');
        self::assertSame([[], ['field']], [Warehouse::open(PracticeClusters::root('wren'))->schemas(), $this->warehouse->schemas()]);
        $this->get("/ledger/proofs/{$applied->id}")
            ->assertOk()
            ->assertSee('written to copies, times measured')
            ->assertSee('on a copy and now takes')
            ->assertSee('all that read');
    }

    public function test_rows_that_came_after_a_change_survive_its_undoing(): void
    {
        $change = $this->applied();
        $this->sql("INSERT INTO field.pick VALUES (7000, 'C', 1, timestamp '2026-11-20 10:00:00')");
        $this->act($change, ChangeAction::Undo);
        self::assertSame('undone', $change->refresh()->state->value, (string) $change->error);
        self::assertSame('by grade', $this->warehouse->table('field', 'pick')?->manifest()->definition->distribution->describe());
        self::assertSame(22_501, $this->warehouse->table('field', 'pick')->manifest()->rows());
        self::assertSame(['pick'], $this->warehouse->tables('field'));
    }

    public function test_the_old_table_goes_after_its_grace_and_undoing_still_works(): void
    {
        $change = $this->applied();
        Carbon::setTestNow('2026-11-28 10:02:00');
        Artisan::call('storage:expire');
        self::assertSame(['pick'], $this->warehouse->tables('field'));
        $this->act($change, ChangeAction::Undo);
        self::assertSame(
            ['undone', 'by grade'],
            [$change->refresh()->state->value, $this->warehouse->table('field', 'pick')?->manifest()->definition->distribution->describe()],
        );
    }

    public function test_of_two_people_who_change_one_table_one_has_to_wait(): void
    {
        $first = $this->rehearsed();
        $second = $this->rehearsed();
        foreach ([$first, $second] as $change) {
            app(Changes::class)->approve($change, $this->person(Role::Engineer));
        }
        app(Changes::class)->apply($first, $this->person(Role::Engineer));
        $this->expectException(Refused::class);
        $this->expectExceptionMessage("Change {$first->id} is being worked on");
        app(Changes::class)->apply($second, $this->person(Role::Owner));
    }

    public function test_a_worker_killed_while_copying_leaves_the_old_table_and_no_other(): void
    {
        $change = $this->rehearsed();
        app(Changes::class)->approve($change, $this->person(Role::Engineer));
        app(Changes::class)->apply($change, $this->person(Role::Engineer));
        $sum = $this->warehouse->table('field', 'pick')?->checksum();
        // As far as the copy, and then nothing more.
        $this->sql(str_replace('NOT NULL', '', $change->refresh()->sealed_steps[0]));
        $change->update(['progress' => 'copying the rows', 'heartbeat_us' => Clock::microseconds() - 200_000_000]);
        Artisan::call('platform:recover');
        self::assertSame(['failed', null], [$change->refresh()->state->value, $change->doing]);
        self::assertStringContainsString('the table is as it was', (string) $change->error);
        self::assertSame(['pick'], $this->warehouse->tables('field'));
        self::assertSame($sum, $this->warehouse->table('field', 'pick')?->checksum());
        // It can be tried again.
        $this->act($change, ChangeAction::Rehearse);
        self::assertSame('rehearsed', $change->refresh()->state->value);
    }

    public function test_a_worker_killed_after_the_swap_has_applied_the_change(): void
    {
        $change = $this->rehearsed();
        app(Changes::class)->approve($change, $this->person(Role::Engineer));
        app(Changes::class)->apply($change, $this->person(Role::Engineer));
        foreach ($change->refresh()->sealed_steps as $sql) {
            $this->sql($sql);
        }
        $change->update(['progress' => 'swapping', 'heartbeat_us' => Clock::microseconds() - 200_000_000]);
        Artisan::call('platform:recover');
        self::assertSame('applied', $change->refresh()->state->value);
        $this->act($change, ChangeAction::Undo);
        self::assertSame('undone', $change->refresh()->state->value, (string) $change->error);
    }

    public function test_a_table_dropped_meanwhile_fails_the_rehearsal_with_a_word(): void
    {
        $change = $this->proposed();
        $this->sql('DROP TABLE field.pick');
        $this->act($change, ChangeAction::Rehearse);
        self::assertSame('proposed', $change->refresh()->state->value);
        self::assertStringContainsString('There is no table field.pick', (string) $change->error);
        self::assertSame([], Warehouse::open(PracticeClusters::root('wren'))->schemas());
    }

    public function test_a_statement_that_fails_on_the_copy_is_shown_and_stands_in_the_way(): void
    {
        $this->sql('CREATE TABLE field.other (bay bigint)');
        $this->send(range(50, 60), 'SELECT p.bay FROM field.pick p JOIN field.other o ON o.bay = p.bay');
        $change = $this->proposed();
        $this->act($change, ChangeAction::Rehearse);
        self::assertSame('rehearsed', $change->refresh()->state->value);
        $proof = $change->latestProof('rehearsal') ?? self::fail();
        self::assertFalse($proof->holds);
        $this->get("/ledger/proofs/{$proof->id}")
            ->assertOk()
            ->assertSee('There is no table');
        $this->post("/ledger/changes/{$change->id}/approve")->assertSessionHas('failed');
        // Dropping that statement opens the way.
        $this->post("/ledger/changes/{$change->id}/choose", [
            'statements' => array_values(
                array_diff(array_column($change->workload, 'id'), [
                    (new \Fulcrion\Core\Sql\Fingerprinter())->of('SELECT p.bay FROM field.pick p JOIN field.other o ON o.bay = p.bay')->id,
                ]),
            ),
            'copy_share' => 50,
        ])->assertSessionHas('done');
        $this->act($change->refresh(), ChangeAction::Rehearse);
        self::assertTrue($change->latestProof('rehearsal')?->holds);
        self::assertStringContainsString('50%', (string) json_encode($change->latestProof('rehearsal')->conditions));
    }

    public function test_an_empty_table_cannot_be_rehearsed_and_its_page_stays_usable(): void
    {
        $change = $this->proposed();
        $this->sql('DELETE FROM field.pick');
        $this->act($change, ChangeAction::Rehearse);
        self::assertStringContainsString('is empty', (string) $change->refresh()->error);
        $this->get('/tune/layout/fernhill/field.pick')->assertOk()->assertSee('The table is empty');
        $this->get('/tune/layout-advice/fernhill/field.pick')->assertOk();
    }

    public function test_live_executions_decide_by_the_test(): void
    {
        $change = $this->applied();
        Carbon::setTestNow('2026-11-20 11:00:00');
        $this->send(range(1, 20), self::SQL, '2026-11-20T10:30', 4000);
        $page = $this->get("/ledger/changes/{$change->id}")->assertOk();
        $page->assertSeeInOrder(['Since then, as it really runs', 'better', 'Mann and Whitney']);
    }

    public function test_one_message_goes_out_for_a_finding_and_one_when_it_is_solved(): void
    {
        Http::fake(['https://198.51.100.7/*' => Http::sequence()->push('no', 500)->whenEmpty(Http::response('ok'))]);
        $this->actingAs($this->person(Role::Owner));
        $this->post('/ledger/subscriptions', ['kind' => 'mail', 'target' => 'team@brackenfold.example'])->assertSessionHasNoErrors();
        $this->post('/ledger/subscriptions', ['kind' => 'webhook', 'target' => 'https://198.51.100.7/secret'])->assertSessionHasNoErrors();
        $this->post('/ledger/subscriptions', ['kind' => 'webhook', 'target' => 'gopher://x'])->assertSessionHasErrors('target');
        Subscription::query()->create(['kind' => 'mail', 'target' => 'weekly@brackenfold.example', 'digest' => true, 'made_by' => 'x']);
        $this->sql('CREATE TABLE field.bad (k bigint, n bigint) PLACED BY (k)');
        $values = 'VALUES '.implode(', ', array_map(static fn (int $i): string => "({$i})", range(0, 149)));
        $this->sql(
            "INSERT INTO field.bad SELECT CASE WHEN a.x < 140 THEN 1 ELSE a.x END, b.x FROM ({$values}) a (x) CROSS JOIN ({$values}) b (x)",
        );
        foreach (range(1, 3) as $_) {
            Artisan::call('storage:audit', ['cluster' => 'fernhill']);
        }
        $subjects = Notification::query()
            ->where('recipient', 'team@brackenfold.example')
            ->where('subject', 'like', '%field.bad%node%')
            ->pluck('subject');
        self::assertCount(1, $subjects, 'none while it stays');
        self::assertStringStartsWith('Found on Fernhill: field.bad is placed', (string) $subjects[0]);
        $mail = Notification::query()->where('subject', $subjects[0])->where('kind', 'mail')->firstOrFail();
        self::assertStringEndsWith("/ledger/findings/{$mail->finding_id}\n", $mail->body, 'where to look');
        self::assertStringContainsString('field.bad', $mail->body);
        Artisan::call('ledger:post');
        self::assertGreaterThan(
            0,
            Notification::query()->where('kind', 'webhook')->where('state', 'waiting')->where('tries', 1)->count(),
            'the first try failed',
        );
        Artisan::call('ledger:post');
        self::assertGreaterThan(0, Notification::query()->where('state', 'waiting')->count(), 'a minute is not over');
        $this->travel(60)->seconds();
        Artisan::call('ledger:post');
        self::assertSame(0, Notification::query()->where('state', 'waiting')->count());
        Http::assertSent(
            static fn ($request): bool =>
                $request->url() === 'https://198.51.100.7/secret' && ($request->data()['event'] ?? '') === 'found',
        );
        $this->sql('DROP TABLE field.bad');
        Artisan::call('storage:audit', ['cluster' => 'fernhill']);
        self::assertSame(
            1,
            Notification::query()
                ->where('recipient', 'team@brackenfold.example')
                ->where('subject', 'like', 'Solved%field.bad%node%')
                ->count(),
        );
        Artisan::call('ledger:post', ['--digest' => true]);
        self::assertSame(
            1,
            Notification::query()->where('recipient', 'weekly@brackenfold.example')->where('state', 'kept')->count(),
            'no mail server is set up',
        );
        $this->get('/ledger/outbox')->assertOk()->assertSee('https://198.51.100.7/…')->assertDontSee('198.51.100.7/secret');
    }

    public function test_a_finding_is_dismissed_with_a_reason_until_a_date(): void
    {
        $finding = $this->finding('skew');
        $this->post("/ledger/findings/{$finding->id}/dismiss", ['reason' => '', 'until' => '2026-11-19'])->assertSessionHasErrors('reason');
        $this->post("/ledger/findings/{$finding->id}/dismiss", [
            'reason' => 'moves in spring',
            'until' => '2026-11-19',
        ])->assertSessionHasErrors('until');
        $this->post("/ledger/findings/{$finding->id}/dismiss", [
            'reason' => 'moves in spring',
            'until' => '2026-12-01',
        ])->assertSessionHasNoErrors();
        Artisan::call('storage:audit', ['cluster' => 'fernhill']);
        self::assertSame('dismissed', $finding->refresh()->state->value);
        $this->get('/')->assertOk()->assertDontSee($finding->problem);
        Carbon::setTestNow('2026-12-02 10:00:00');
        Artisan::call('storage:audit', ['cluster' => 'fernhill']);
        self::assertSame('open', $finding->refresh()->state->value);
        $this->get('/')->assertOk()->assertSee($finding->problem);
    }

    public function test_statistics_are_collected_only_where_they_lack(): void
    {
        $this->sql('CREATE TABLE field.unasked (n bigint)');
        $this->sql('INSERT INTO field.unasked VALUES (1)');
        self::assertSame(['field.pick'], app(StatisticsRound::class)->needed($this->home));
        $this->post('/tune/layout-statistics/fernhill', ['parallel' => 9])->assertSessionHasErrors('parallel');
        $this->post('/tune/layout-statistics/fernhill', ['parallel' => 2])->assertSessionHas('done');
        Queue::assertPushed(CollectStatistics::class);
        self::assertSame(0, Artisan::call('storage:statistics', ['cluster' => 'fernhill', 'table' => 'field.pick']));
        self::assertEqualsCanonicalizing(
            ['bay', 'picked_at'],
            array_keys($this->warehouse->table('field', 'pick')?->statistics()->columns ?? []),
            'what is filtered and grouped by, no more',
        );
        self::assertNull($this->warehouse->table('field', 'unasked')?->statistics());
    }

    public function test_twenty_thousand_chunks_and_five_hundred_partitions_stay_usable(): void
    {
        $table = $this->warehouse->createTable(
            'field',
            'huge',
            new TableDefinition(
                [new Column('n', ColumnType::of(TypeKind::Bigint), false)],
                Distribution::even(),
                new Partitioning('n', 40),
            ),
            1,
        );
        $chunks = [];
        for ($i = 0; $i < 20_000; $i++) {
            $chunks[] = new Chunk("none-{$i}.parquet", $i % 4, (string) (intdiv($i, 40) * 40), 10, 100, [
                new ZoneMap($i, $i + 300, 0, 10, 90),
            ]);
        }
        $table->publish(new Manifest(2, 1, $table->manifest()->definition, $chunks, 200_000));
        $page = $this->get('/tune/layout/fernhill/field.huge')->assertOk()->assertSee('are too many to be drawn apart');
        self::assertLessThan(400_000, strlen((string) $page->getContent()));
        $this->get('/tune/layout?cluster=fernhill')->assertOk()->assertSee('field.huge');
        $this->get('/tune/layout-advice/fernhill/field.huge')->assertOk()->assertSee('cannot be opened');
    }

    public function test_upkeep_runs_when_needed_in_its_hours_and_says_what_it_did(): void
    {
        $this->sql('CREATE TABLE field.log (at bigint, v bigint) SORTED BY (at)');
        foreach (range(1, 40) as $i) {
            $this->sql("INSERT INTO field.log VALUES ({$i}, 1), (".(100 - $i).', 2)');
        }
        $form = [
            'acts' => ['compact', 'sort', 'expire'],
            'when' => 'cron',
            'cron' => 'every night',
            'small' => 0.5,
            'depth' => 3,
            'changed' => 0.2,
            'expire_days' => 7,
            'keep' => 2,
            'hours_from' => 12,
            'hours_to' => 14,
        ];
        $this->post('/tune/layout-maintenance/fernhill/field.log', $form)->assertSessionHasErrors('cron');
        $this->post('/tune/layout-maintenance/fernhill/field.log', ['when' => 'needed'] + $form)->assertSessionHasNoErrors();
        $chunks = fn (): int => count($this->warehouse->table('field', 'log')?->manifest()->chunks ?? []);
        $before = $chunks();
        Artisan::call('storage:maintain');
        self::assertSame($before, $chunks(), 'not in its hours');
        $id = (int) \App\Storage\Models\MaintenancePlan::query()->value('id');
        $this->post("/tune/maintenance/{$id}/run", ['dry' => 1])->assertSessionHas('done');
        self::assertSame($before, $chunks(), 'a dry run');
        Carbon::setTestNow('2026-11-20 12:30:00');
        Artisan::call('storage:maintain');
        self::assertLessThan($before / 4, $chunks());
        Artisan::call('storage:maintain');
        $this->get('/tune/layout/maintenance')->assertOk()->assertSee('would become')->assertSee('too small')->assertSee('compacted');
        self::assertSame(2, \Illuminate\Support\Facades\DB::table('maintenance_runs')->count(), 'nothing needed doing the second time');
    }

    #[TestWith(['viewer'])]
    #[TestWith(['steward'])]
    public function test_others_look_but_do_not_touch(string $role): void
    {
        $change = $this->proposed();
        $finding = $this->finding('skew');
        $this->actingAs($this->person(Role::from($role)));
        foreach (
            [
                '/',
                '/tune/layout',
                '/tune/layout/fernhill/field.pick',
                '/tune/layout/rules',
                '/tune/layout/rules/skew',
                '/tune/layout/maintenance',
                '/tune/layout/files',
                '/ledger/findings',
                "/ledger/findings/{$finding->id}",
                '/ledger/changes',
                "/ledger/changes/{$change->id}",
                '/ledger/proofs',
                '/ledger/outbox',
                '/ledger/findings/export/csv',
                '/ledger/changes/export/json',
                '/ledger/proofs/export/csv',
            ] as $page
        ) {
            $this->get($page)->assertOk();
        }
        $acts = [
            '/tune/layout-audit/fernhill',
            '/tune/layout-rules/fernhill/skew',
            "/tune/layout-findings/{$finding->id}/propose",
            '/tune/layout-propose/fernhill/field.pick',
            '/tune/layout-files',
            '/tune/layout-maintenance/fernhill/field.pick',
            '/ledger/subscriptions',
            '/ledger/outbox/send',
        ];
        foreach (['choose', 'rehearse', 'approve', 'apply', 'undo', 'stop'] as $act) {
            $acts[] = "/ledger/changes/{$change->id}/{$act}";
        }
        foreach (['accept', 'dismiss', 'reopen'] as $act) {
            $acts[] = "/ledger/findings/{$finding->id}/{$act}";
        }
        foreach ($acts as $path) {
            $this->post($path)->assertForbidden();
        }
        $this->get('/tune/layout-advice/fernhill/field.pick')->assertForbidden();
        if ($role === 'viewer') {
            $this->actingAs($this->person(Role::Engineer))
                ->post('/ledger/subscriptions', ['kind' => 'mail', 'target' => 'a@b.example'])
                ->assertForbidden();
        }
    }

    private function proposed(): Change
    {
        $finding = $this->finding('skew');

        return app(Changes::class)
            ->propose($this->home, $finding, app(Proposals::class)->ofFinding($finding), $this->person(Role::Engineer))
            ->refresh();
    }

    public function test_what_a_trial_shows_to_be_slower_is_not_the_main_act_and_a_changed_answer_asks_to_be_undone(): void
    {
        $this->actingAs($this->person(Role::Engineer));
        $change = $this->rehearsed();
        $main = fn (Change $change): array => preg_match_all(
            '~<button class="btn btn-primary">([^<]+)</button>~',
            (string) $this->get("/ledger/changes/{$change->id}")
                ->assertOk()
                ->getContent(),
            $m,
        ) > 0
            ? $m[1]
            : [];
        self::assertSame(['Approve'], $main($change));
        $change->latestProof('rehearsal')?->update(['factor' => 0.8]);
        self::assertSame(['Rehearse again'], $main($change));
        $this->get("/ledger/changes/{$change->id}")
            ->assertSee('made the statements slower')
            ->assertSee('Approve though it is slower');
        $change->latestProof('rehearsal')?->update(['factor' => 2.0]);
        $change = $this->applied();
        self::assertSame('calm', $change->mark());
        self::assertNotContains('Undo', $main($change));
        $change->latestProof('applied')?->update(['holds' => false]);
        self::assertSame(['Undo'], $main($change));
        self::assertSame('act', Change::query()->findOrFail($change->id)->mark());
        $this->get("/ledger/changes/{$change->id}")->assertSee('undo it first');
    }

    public function test_approving_and_applying_twice_is_the_same_as_once(): void
    {
        $user = $this->person(Role::Engineer);
        $change = $this->rehearsed();
        $stale = Change::query()->findOrFail($change->id);
        foreach ([$change, $change, $stale] as $one) {
            app(Changes::class)->approve($one, $user);
        }
        self::assertSame(1, LedgerEntry::query()->where('act', 'approved a change')->count());
        $this->act($change, ChangeAction::Apply);
        $proofs = ProofRecord::query()->count();
        app(Changes::class)->apply($change->refresh(), $user);
        self::assertSame([1, $proofs], [LedgerEntry::query()->where('act', 'asked to apply')->count(), ProofRecord::query()->count()]);
    }

    /**
     * @param  list<string>  $steps
     * @param  list<string>  $inverse
     */
    #[TestWith([TableChangeKind::Rebuild, [], []])]
    #[TestWith([TableChangeKind::Maintain, ['MAINTAIN TABLE field.pick WITH (action = encode, compression = gzip5)'], []])]
    #[
        TestWith([
            TableChangeKind::Rollups,
            ['CREATE ROLLUP field.by_bay AS SELECT bay, picked_at, sum(kilos) AS kilos FROM field.pick GROUP BY bay, picked_at'],
            ['DROP ROLLUP field.by_bay'],
        ]),
    ]
    #[TestWith([TableChangeKind::Rebuild, [], [], 'after'])]
    #[TestWith([TableChangeKind::Maintain, ['MAINTAIN TABLE field.pick WITH (action = encode, compression = gzip5)'], [], 'after'])]
    #[
        TestWith([
            TableChangeKind::Rollups,
            ['CREATE ROLLUP field.by_bay AS SELECT bay, picked_at, sum(kilos) AS kilos FROM field.pick GROUP BY bay, picked_at'],
            ['DROP ROLLUP field.by_bay'],
            'after',
        ]),
    ]
    public function test_answers_are_compared_of_the_same_rows_though_others_write_meanwhile(
        TableChangeKind $kind,
        array $steps,
        array $inverse,
        string $only = '',
    ): void {
        $proposal = app(Proposals::class)->ofFinding($this->finding('skew'));
        $change = $this->begun(
            $kind === TableChangeKind::Rebuild
                ? $proposal
                : new Proposal(
                    'field.pick',
                    'Another way',
                    $kind->value,
                    $steps,
                    $inverse === [] ? Inverse::version() : Inverse::statements($inverse),
                    0.0,
                    0.0,
                    0.0,
                    0.0,
                    [],
                    $proposal->workload,
                ),
        );
        $written = 0;
        Change::updated(function (Change $one) use (&$written, $only): void {
            if (
                $written < 2 &&
                $one->doing === ChangeAction::Apply &&
                preg_match('~^statement 1 of .*, (before|after) the~', $one->progress, $when) === 1 &&
                ($only === '' || $only === $when[1])
            ) {
                $written++;
                $this->sql("INSERT INTO field.pick SELECT bay, grade, 1000000, picked_at FROM field.pick WHERE bay = {$written}");
            }
        });
        try {
            $this->act($change, ChangeAction::Apply);
        } finally {
            Change::flushEventListeners();
        }
        self::assertSame(['applied', null], [$change->refresh()->state->value, $change->error]);
        self::assertSame($only === '' ? 2 : 1, $written);
        $proof = $change->latestProof('applied') ?? self::fail();
        self::assertTrue($proof->holds, $proof->sentence);
        $lines = $proof->proof()->lines;
        self::assertNotSame([], $lines);
        foreach ($lines as $line) {
            self::assertTrue($line->equal());
            self::assertGreaterThan(0, $line->after->rows);
        }
        self::assertSame(
            ($only === '' ? '300' : '150').
                ' rows were written or removed by others; the answers compared are of the same rows before and after',
            $proof->conditions['meanwhile'],
        );
        $this->get("/ledger/proofs/{$proof->id}")
            ->assertOk()
            ->assertSee('written or removed by others');
    }

    public function test_a_changed_answer_is_found_though_others_write_meanwhile(): void
    {
        $proposal = app(Proposals::class)->ofFinding($this->finding('skew'));
        $change = $this->begun(
            new Proposal(
                'field.pick',
                'Pack',
                TableChangeKind::Maintain->value,
                ['MAINTAIN TABLE field.pick WITH (action = encode, compression = gzip5)'],
                Inverse::version(),
                0.0,
                0.0,
                0.0,
                0.0,
                [],
                $proposal->workload,
            ),
        );
        $done = [];
        Change::updated(function (Change $one) use (&$done): void {
            if (! isset($done['written']) && str_starts_with($one->progress, 'statement 1')) {
                $done['written'] = true;
                $this->sql('INSERT INTO field.pick SELECT bay, grade, 1000000, picked_at FROM field.pick WHERE bay = 1');
            }
            if (! isset($done['lost']) && $one->state === ChangeState::Applied) {
                // Maintenance that loses rows: a version that says it wrote none and lacks a chunk.
                $done['lost'] = true;
                $store = Warehouse::open(PracticeClusters::root('fernhill'))->table('field', 'pick') ?? self::fail();
                $now = $store->manifest();
                $store->publish(
                    new Manifest($now->version + 1, $now->writtenUs, $now->definition, array_slice($now->chunks, 1), $now->rowsChanged),
                );
            }
        });
        try {
            $this->act($change, ChangeAction::Apply);
        } finally {
            Change::flushEventListeners();
        }
        self::assertSame(['written' => true, 'lost' => true], $done);
        self::assertNull($change->refresh()->error);
        $proof = $change->latestProof('applied') ?? self::fail();
        self::assertFalse($proof->holds);
        self::assertSame('act', $change->mark());

        // The first of them are laid side by side, for whoever sees all of the table.
        $difference = ($proof->differences ?? [])[0] ?? self::fail('no rows were kept');
        self::assertSame(
            [['bay', 'kilos'], ['field.pick'], $this->home->id],
            [$difference['columns'], $difference['tables'], $difference['place']],
        );
        self::assertLessThanOrEqual(5, count($difference['before']));
        self::assertGreaterThan(0, $difference['onlyBefore']);
        $lost = array_diff(array_map(json_encode(...), $difference['before']), array_map(json_encode(...), $difference['after']));
        self::assertNotSame([], $lost);
        $page = "/ledger/proofs/{$proof->id}";
        self::assertSame(
            count($difference['before']),
            substr_count((string) $this->get($page)->assertOk()->assertSee('Rows that differ')->getContent(), 'quiet">only before</td>'),
        );
        self::assertStringNotContainsString(
            'only before</td>',
            (string) $this->get("{$page}/file")
                ->assertOk()
                ->assertSee('Rows that differ')
                ->getContent(),
            'what is handed to anyone shows no values',
        );
        $this->app->instance(QueryAuthorizer::class, self::createStub(QueryAuthorizer::class));
        $this->get($page)
            ->assertOk()
            ->assertSee('shown to those who see every value of field.pick')
            ->assertDontSee('quiet">only before</td>', false);
    }

    public function test_where_two_pairs_of_eyes_are_wanted_somebody_else_approves(): void
    {
        config(['fulcrion.second_pair' => true]);
        $change = $this->rehearsed();
        self::assertSame($this->person(Role::Engineer)->id, $change->asked_by_id);
        $this->actingAs($this->person(Role::Engineer))
            ->get("/ledger/changes/{$change->id}")
            ->assertOk()
            ->assertSee('Somebody else has to approve it')
            ->assertDontSee("/ledger/changes/{$change->id}/approve");
        $this->post("/ledger/changes/{$change->id}/approve")->assertSessionHas('failed');
        self::assertSame('rehearsed', $change->refresh()->state->value);
        // Bearing the same name makes nobody the same person.
        $other = $this->person(Role::Owner);
        $other->update(['name' => 'Engineer']);
        $this->actingAs($other)
            ->get("/ledger/changes/{$change->id}")
            ->assertOk()
            ->assertDontSee('Somebody else has to approve it');
        $this->post("/ledger/changes/{$change->id}/approve")->assertSessionHas('done');
        self::assertSame('approved', $change->refresh()->state->value);
        config(['fulcrion.second_pair' => false]);
        self::assertFalse($change->needsAnother($this->person(Role::Engineer)));
    }

    private function begun(Proposal $proposal): Change
    {
        $change = app(Changes::class)->propose($this->home, null, $proposal, $this->person(Role::Engineer))->refresh();
        $this->act($change, ChangeAction::Rehearse);
        app(Changes::class)->approve($change->refresh(), $this->person(Role::Engineer));

        return $change->refresh();
    }

    private function rehearsed(): Change
    {
        $change = $this->proposed();
        $this->act($change, ChangeAction::Rehearse);

        return $change->refresh();
    }

    private function applied(): Change
    {
        $change = $this->rehearsed();
        app(Changes::class)->approve($change, $this->person(Role::Engineer));
        $this->act($change, ChangeAction::Apply);

        return $change->refresh();
    }

    /** Asks for it and does what a worker would. */
    private function act(Change $change, ChangeAction $action): void
    {
        self::take($change, $action, $this->person(Role::Engineer));
        app(ChangeRunner::class)->run($change, $change->doing ?? self::fail('nothing was begun'), 'Engineer');
    }

    private function finding(string $rule): Finding
    {
        return Finding::query()->where('rule', $rule)->first() ??
            self::fail("no finding {$rule}: ".Finding::query()->pluck('rule')->implode(', '));
    }

    private function sql(string $sql): void
    {
        app(Connectors::class)->keeper($this->home)?->apply($sql, static fn (): bool => false);
    }

    /**
     * @param  list<int>  $minutes
     */
    private function send(array $minutes, string $sql = self::SQL, string $hour = '2026-11-19T08', int $durationUs = 90_000): void
    {
        $records = array_map(
            static fn (int $i): array => [
                'started_at' => str_contains($hour, ':')
                    ? "{$hour}:".sprintf('%02d', $i).'Z'
                    : "{$hour}:".sprintf('%02d', $i).':00Z',
                'duration_us' => $durationUs + $i,
                'sql' => $sql,
                'database' => 'field',
                'user' => 'packhouse',
                'bytes_scanned' => 1_000_000,
            ],
            $minutes,
        );
        self::assertSame(
            0,
            Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']),
            Artisan::output(),
        );
    }
}
