<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Access\Application\AccessAudit;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceKind;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\SubjectKind;
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
            $us,
            0.0,
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
            [Severity::Act, 'solved'],
            [Finding::query()->where('rule', 'damp')->firstOrFail()->severity, $frost->refresh()->state],
        );
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
            new Reported('r', FindingSubject::item('field.pick'), Severity::Watch, 'field.pick is odd', $evidence, 0.0, 0.0, ''),
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
            new Reported('r', FindingSubject::item('a'), Severity::Watch, 'a is odd', [], 0.0, 0.0, ''),
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
            ->post("/ledger/findings/{$finding->id}/waive", ['reason' => ''])
            ->assertForbidden();
        $this->actingAs($this->person(Role::Engineer))
            ->post("/ledger/findings/{$finding->id}/waive", ['reason' => ''])
            ->assertSessionHasErrors(['reason', 'until']);
    }

    public function test_a_finding_stays_readable_where_its_capability_is_gone(): void
    {
        app(Findings::class)->reconcile($this->cluster(), 'gone', [
            new Reported('r', FindingSubject::job('x'), Severity::Watch, 'x was late', [], 0.0, 0.0, ''),
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
                new Reported($source, FindingSubject::item($source), $severity, 'p', [], 0.0, 0.0, ''),
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
