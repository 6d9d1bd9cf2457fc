<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Access\Application\AccessAudit;
use App\Ledger\Findings\Causes;
use App\Ledger\Findings\CausingFinding;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceKind;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Findings\FindingState;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\SubjectKind;
use App\Ledger\Findings\Weight;
use App\Ledger\Findings\WeightUnit;
use App\Ledger\Models\Finding;
use App\Ledger\Models\Notification;
use App\Ledger\Models\Subscription;
use App\Platform\Support\Role;
use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Crypt;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;
use PHPUnit\Framework\Attributes\DataProvider;
use Tests\TestCase;

final class FindingTest extends TestCase
{
    private const PRINT = '0123456789abcdef0123456789abcdef';

    /**
     * @return list<array{FindingSubject, string, SubjectKind, string, string}> key, kind, table, as people read it
     */
    public static function subjects(): array
    {
        return [
            [FindingSubject::item('field.pick'), 'field.pick', SubjectKind::Item, 'field.pick', 'field.pick'],
            [
                FindingSubject::item('field.pick', self::PRINT),
                'field.pick#'.self::PRINT,
                SubjectKind::Item,
                'field.pick',
                'field.pick, statement 01234567',
            ],
            [FindingSubject::statement(self::PRINT), 'statement:'.self::PRINT, SubjectKind::Statement, '', 'statement 01234567'],
            [FindingSubject::job('climate: fold'), 'job:climate: fold', SubjectKind::Job, '', 'climate: fold'],
            [FindingSubject::account('crew#3'), 'user:crew#3', SubjectKind::Account, '', 'crew#3'],
            [FindingSubject::item('mask # 4'), 'mask # 4', SubjectKind::Item, 'mask # 4', 'mask # 4'],
        ];
    }

    #[DataProvider('subjects')]
    public function test_a_subject_is_read_as_it_was_kept(
        FindingSubject $subject,
        string $key,
        SubjectKind $kind,
        string $table,
        string $shown,
    ): void {
        self::assertSame($key, $subject->key());
        $read = FindingSubject::read($key);
        self::assertEquals($subject, $read);
        self::assertSame([$kind, $table, $shown], [$read->kind, $read->table(), $read->shown()]);
    }

    public function test_what_somebody_should_act_on_comes_first_and_a_source_says_who_and_where(): void
    {
        app(FindingSources::class)->register(
            new FindingSource(
                'weather',
                'guard',
                'Stewards open the windows.',
                home: static fn (): array => ['House 4', '/houses/4'],
                rule: static fn (): string => '/rules/frost',
            ),
        );
        $cluster = $this->cluster();
        $report = static fn (string $rule, Severity $severity, float $us): Reported => new Reported(
            $rule,
            FindingSubject::item('house 4'),
            $severity,
            "{$rule} in house 4",
            [],
            Weight::of($us, WeightUnit::QueryTime),
            '',
        );
        $reconcile = static fn (Reported ...$reported): array => app(Findings::class)->reconcile(
            $cluster,
            'weather',
            array_values($reported),
        );
        self::assertSame(
            ['new' => 2, 'solved' => 0, 'open' => 2],
            $reconcile($report('damp', Severity::Watch, 9e9), $report('frost', Severity::Act, 1.0)),
        );
        self::assertSame(['frost', 'damp'], Finding::waiting()->pluck('rule')->all());
        $frost = Finding::query()->where('rule', 'frost')->firstOrFail();
        self::assertSame(['act', 'watch'], [$frost->mark(), Finding::query()->where('rule', 'damp')->firstOrFail()->mark()]);
        $this->actingAs($this->person(Role::Engineer))
            ->get("/ledger/findings/{$frost->id}")
            ->assertOk()
            ->assertSee('Stewards open the windows.')
            ->assertSee('href="/houses/4"', false)
            ->assertSee('href="/rules/frost"', false)
            ->assertDontSee('Propose the change');
        $this->post("/ledger/findings/{$frost->id}/accept")->assertForbidden();
        $this->actingAs($this->person(Role::Steward))
            ->post("/ledger/findings/{$frost->id}/accept")
            ->assertRedirect();
        // What was found once and became worse is the same finding.
        self::assertSame(['new' => 0, 'solved' => 1, 'open' => 1], $reconcile($report('damp', Severity::Act, 1.0)));
        self::assertSame(
            [Severity::Act, FindingState::Solved],
            [Finding::query()->where('rule', 'damp')->firstOrFail()->severity, $frost->refresh()->state],
        );
    }

    public function test_weights_of_different_units_are_ordered_apart_and_never_added(): void
    {
        $report = static fn (string $name, Weight $weight): Reported => new Reported(
            'heavy',
            FindingSubject::item($name),
            Severity::Watch,
            "{$name} is heavy",
            [],
            $weight,
            '',
        );
        app(Findings::class)->reconcile($this->cluster(), 'weather', [
            $report('none', Weight::of(-1.0, WeightUnit::Bytes)),
            $report('bytes', Weight::timeOrBytes(0.0, 2048.0)),
            $report('workers', Weight::of(9e12, WeightUnit::WorkerTime)),
            $report('light', Weight::of(1e6, WeightUnit::QueryTime)),
            $report('queries', Weight::timeOrBytes(3.6e9, 1e9)),
        ]);
        self::assertSame(
            ['queries', 'light', 'workers', 'bytes', 'none'],
            Finding::waiting()->pluck('object')->all(),
        );
        self::assertSame(3.601e9, Finding::waitingQueryUs());
        self::assertSame(
            ['1 h', '1 s', '104 d 4 h of workers', '2 KiB', ''],
            Finding::waiting()->get()->map(static fn (Finding $one): string => $one->weight()->shown())->all(),
        );
        $this->actingAs($this->person(Role::Viewer))->get('/ledger/findings')->assertSee('1 h')->assertSee('of query time a week');
        $rows = json_decode($this->get('/ledger/findings/export/json')->streamedContent(), true);
        self::assertSame(
            ['query_us_per_week', 'query_us_per_week', 'worker_us_per_week', 'bytes', ''],
            array_column(is_array($rows) ? $rows : [], 'weight_unit'),
        );
    }

    public function test_a_slow_statement_names_the_finding_it_comes_of(): void
    {
        [$here, $elsewhere] = [$this->cluster(), $this->cluster('wren')];
        $table = static fn (string $name, float $us): Reported => new Reported(
            'skew',
            FindingSubject::item($name),
            Severity::Act,
            "{$name} is uneven",
            [],
            Weight::of($us, WeightUnit::QueryTime),
            'distribution',
            byStatementUs: [self::PRINT => $us, str_repeat('a', 32) => -5.0],
        );
        app(Findings::class)->reconcile($here, 'storage', [$table('field.pick', 30e6), $table('field.bay', 19e6)]);
        app(Findings::class)->reconcile($elsewhere, 'storage', [$table('field.row', 90e6)]);
        $slow = new Reported(
            'slower',
            FindingSubject::statement(self::PRINT),
            Severity::Act,
            'Slower by a factor of 3',
            [],
            Weight::of(100e6, WeightUnit::QueryTime),
            '',
        );
        app(Findings::class)->reconcile($here, 'statements', [$slow]);
        $finding = Finding::query()->where('rule', 'slower')->firstOrFail();
        $of = static fn (string $object): Finding => Finding::query()->where('object', $object)->firstOrFail();
        $cause = app(Causes::class)->of([$finding])[$finding->id] ?? null;
        self::assertEquals(new CausingFinding($of('field.pick')->id, 'field.pick is uneven', 0.3), $cause);
        $explained = app(Causes::class)->explainedBy($of('field.pick'));
        self::assertEquals([new CausingFinding($finding->id, 'Slower by a factor of 3', 0.3)], $explained);
        self::assertSame([], app(Causes::class)->explainedBy($of('field.bay')), 'the heavier one is named');
        self::assertSame(3, DB::table('finding_statements')->count(), 'what costs nothing is not kept');
        $this->actingAs($this->person(Role::Viewer))
            ->get("/ledger/findings/{$finding->id}")
            ->assertSee('field.pick is uneven')
            ->assertSee('explains 30% of it');
        $this->get('/ledger/findings')->assertSee('comes of');
        $this->get('/')->assertSee('comes of')->assertSee('field.pick is uneven');
        $this->get('/ledger/findings/'.$of('field.pick')->id)->assertSee('Slower by a factor of 3');

        app(Findings::class)->reconcile($here, 'storage', [$table('field.bay', 19e6)]);
        self::assertSame([], app(Causes::class)->of([$finding]), 'less than a fifth explains nothing, what is solved neither');
    }

    public function test_nothing_outlives_the_cluster_or_the_finding_it_belongs_to(): void
    {
        $cluster = $this->cluster();
        app(Findings::class)->reconcile($cluster, 'storage', [
            new Reported(
                'skew',
                FindingSubject::item('a'),
                Severity::Act,
                'a is odd',
                [],
                Weight::of(5.0, WeightUnit::QueryTime),
                '',
                byStatementUs: [self::PRINT => 5.0],
            ),
        ]);
        self::assertSame([1, 1], [DB::table('findings')->count(), DB::table('finding_statements')->count()]);
        DB::table('clusters')
            ->where('id', $cluster->id)
            ->delete();
        self::assertSame([0, 0], [DB::table('findings')->count(), DB::table('finding_statements')->count()]);
        // Load is written in bulk and goes with its cluster by the page that removes it; everything else has a key.
        $without = DB::select(
            "SELECT c.TABLE_NAME AS name FROM information_schema.COLUMNS c LEFT JOIN information_schema.KEY_COLUMN_USAGE k
            ON k.TABLE_SCHEMA = c.TABLE_SCHEMA AND k.TABLE_NAME = c.TABLE_NAME AND k.COLUMN_NAME = c.COLUMN_NAME
            AND k.REFERENCED_TABLE_NAME = 'clusters'
            WHERE c.TABLE_SCHEMA = DATABASE() AND c.COLUMN_NAME = 'cluster_id' AND k.TABLE_NAME IS NULL ORDER BY c.TABLE_NAME",
        );
        self::assertSame(
            [
                'access_decisions', 'digest_readings', 'load_by_origin_five_minute', 'load_by_origin_hour', 'load_day',
                'load_five_minute', 'load_half_minute', 'load_hour', 'load_six_hour', 'load_week', 'messages', 'samples', 'seen_executions',
                'statement_presence', 'usage_facts', 'usage_hours', 'usage_origin_days', 'usage_origin_months', 'usage_origin_weeks',
                'usage_statement_days', 'usage_statement_months', 'usage_statement_weeks',
            ],
            array_column($without, 'name'),
        );
    }

    public function test_weights_of_the_version_before_are_read_and_given_back(): void
    {
        $cluster = $this->cluster();
        foreach (['storage' => Weight::timeOrBytes(7.0, 9.0), 'jobs' => Weight::of(8.0, WeightUnit::WorkerTime),
            'access' => Weight::none(), 'statements' => Weight::timeOrBytes(0.0, 9.0)] as $source => $weight) {
            $spare = in_array($source, ['storage', 'statements'], true) ? 9.0 : 0.0;
            app(Findings::class)->reconcile($cluster, $source, [
                new Reported('r', FindingSubject::item($source), Severity::Watch, 'p', [], $weight, '', spareBytes: $spare),
            ]);
        }
        $shown = static fn (): array => array_map(
            static fn (Finding $one): array => [$one->weight, $one->weight_unit, $one->spare_bytes],
            Finding::query()->get()->sortBy('id')->values()->all(),
        );
        $before = $shown();
        self::assertSame([7.0, WeightUnit::QueryTime, 9.0], $before[0]);
        $migration = require database_path('migrations/2026_11_30_000000_weight_and_cause_of_findings.php');
        assert($migration instanceof Migration && method_exists($migration, 'up') && method_exists($migration, 'down'));
        $migration->down();
        self::assertSame([7.0, 8.0, 0.0, 0.0], DB::table('findings')->orderBy('id')->pluck('weight_us')->all());
        self::assertSame([9.0, 0.0, 0.0, 9.0], DB::table('findings')->orderBy('id')->pluck('weight_bytes')->all());
        DB::table('changes')->insert(['cluster_id' => 999, 'finding_id' => null] + self::nothing('changes'));
        $migration->up();
        self::assertSame($before, $shown());
        self::assertSame(0, DB::table('changes')->count(), 'what belonged to no cluster any more');
    }

    /**
     * @return array<string, int|string|null> what a row of a table has where nothing is said
     */
    private static function nothing(string $table): array
    {
        $row = [];
        foreach (Schema::getColumns($table) as $column) {
            if (! $column['nullable'] && $column['default'] === null && ! $column['auto_increment']) {
                $row[$column['name']] = str_contains($column['type'], 'int') || str_contains($column['type'], 'double') ? 0 : '{}';
            }
        }

        return $row;
    }

    public function test_what_quotes_values_is_for_those_who_may_see_them_and_in_no_mail(): void
    {
        Subscription::query()->create([
            'kind' => 'mail',
            'target' => 'team@brackenfold.example',
            'digest' => false,
            'paused' => false,
            'made_by' => 'Owner',
        ]);
        $evidence = [
            new Evidence('rows', '12 of 40'),
            new Evidence('filter', "crew = 'Ada'", EvidenceKind::Literal),
            new Evidence('what', 'SELECT ? FROM pick', EvidenceKind::Statement),
            new Evidence("odd \xff bytes", 'kept', EvidenceKind::Remedy),
        ];
        app(Findings::class)->reconcile($this->cluster(), 'storage', [
            new Reported('r', FindingSubject::item('field.pick'), Severity::Watch, 'field.pick is odd', $evidence, Weight::none(), ''),
        ]);
        $finding = Finding::query()->firstOrFail();
        self::assertEquals(array_slice($evidence, 0, 3), array_slice($finding->evidence, 0, 3));
        self::assertSame(EvidenceKind::Remedy, $finding->evidence[3]->kind);
        self::assertSame(['SELECT ? FROM pick'], Evidence::values($finding->evidence, EvidenceKind::Statement));
        self::assertStringNotContainsString('Ada', (string) DB::table('findings')->value('evidence'), 'sealed');
        $mail = Notification::query()->firstOrFail();
        self::assertStringContainsString('rows: 12 of 40', $mail->body);
        self::assertStringNotContainsString('Ada', $mail->body);
        self::assertSame(['waiting', $finding->id, 'mail'], [$mail->state, $mail->finding_id, $mail->kind]);
        $page = "/ledger/findings/{$finding->id}";
        $this->actingAs($this->person(Role::Viewer))
            ->get($page)
            ->assertSee('12 of 40')
            ->assertSee('hidden from your role')
            ->assertDontSee('Ada');
        $this->actingAs($this->person(Role::Engineer))->get($page)->assertSee('Ada');
    }

    public function test_who_decides_on_a_finding_and_acts_on_a_change_is_asked_of_their_policies(): void
    {
        app(Findings::class)->reconcile($this->cluster(), 'access', [
            new Reported('r', FindingSubject::item('a'), Severity::Watch, 'a is odd', [], Weight::none(), ''),
        ]);
        $finding = Finding::query()->firstOrFail();
        $may = fn (Role $role): bool => $this->person($role)->can('decide', $finding);
        self::assertSame(
            [false, false, true, true],
            array_map($may, [Role::Viewer, Role::Engineer, Role::Steward, Role::Owner]),
            'what access finds is for stewards',
        );
        $finding->update(['source' => 'storage']);
        self::assertSame([false, true, false, true], array_map($may, [Role::Viewer, Role::Engineer, Role::Steward, Role::Owner]));
        $this->actingAs($this->person(Role::Steward))
            ->post("/ledger/findings/{$finding->id}/dismiss", ['reason' => ''])
            ->assertForbidden();
        $this->actingAs($this->person(Role::Engineer))
            ->post("/ledger/findings/{$finding->id}/dismiss", ['reason' => ''])
            ->assertSessionHasErrors(['reason', 'until']);
    }

    public function test_a_finding_stays_readable_where_its_capability_is_gone(): void
    {
        app(Findings::class)->reconcile($this->cluster(), 'gone', [
            new Reported('r', FindingSubject::job('x'), Severity::Watch, 'x was late', [], Weight::none(), ''),
        ]);
        $this->actingAs($this->person(Role::Viewer))
            ->get('/ledger/findings/'.Finding::query()->firstOrFail()->id)
            ->assertOk()
            ->assertSee('x was late');
    }

    public function test_findings_of_the_version_before_keep_their_weight(): void
    {
        $cluster = $this->cluster();
        foreach (
            [['storage', Severity::Act], ['access', Severity::Watch],
                ['statements', Severity::Watch], ['jobs', Severity::Act]] as [$source, $severity]
        ) {
            app(Findings::class)->reconcile($cluster, $source, [
                new Reported($source, FindingSubject::item($source), $severity, 'p', [], Weight::none(), ''),
            ]);
        }
        $shown = static fn (): array => DB::table('findings')
            ->orderBy('id')
            ->get(['source', 'severity'])
            ->map(static fn (object $f): array => (array) $f)
            ->all();
        $before = $shown();
        Schema::table('findings', static function (Blueprint $table): void {
            $table->boolean('act')->default(false);
            $table->renameColumn('source', 'bench');
        });
        DB::table('findings')
            ->where('severity', 'act')
            ->update(['act' => true]);
        Schema::table('findings', static fn (Blueprint $table) => $table->dropColumn('severity'));
        foreach (['access' => 'guard', 'storage' => 'tune', 'statements' => 'load'] as $now => $then) {
            DB::table('findings')
                ->where('bench', $now)
                ->update(['bench' => $then]);
        }
        DB::table('findings')->update(['evidence' => Crypt::encryptString('[["would mend it","take it out"],["filter","a = 1"]]')]);
        foreach (['2026_11_29_400000_one_finding', '2026_11_29_600000_evidence_of_findings'] as $name) {
            $migration = require database_path("migrations/{$name}.php");
            assert($migration instanceof Migration && method_exists($migration, 'up'));
            $migration->up();
        }
        self::assertSame($before, $shown());
        $remedies = AccessAudit::remedies(Finding::query()->where('source', 'access')->firstOrFail());
        self::assertSame(['take it out'], $remedies, 'what would fix it is still known');
        self::assertEquals(
            [new Evidence('would mend it', 'take it out'), new Evidence('filter', 'a = 1', EvidenceKind::Literal)],
            Finding::query()->where('source', 'jobs')->firstOrFail()->evidence,
        );
    }
}
