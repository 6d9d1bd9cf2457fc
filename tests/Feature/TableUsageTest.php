<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\FindingState;
use App\Ledger\Models\Finding;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Telemetry\Store\PlanStore;
use App\Telemetry\Usage\TableUsage;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Plans\StepReads;
use Fulcrion\Core\Plans\TableFacts;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Fulcrion\Core\Usage\Used;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Use by table, and results nobody reads any more.
 */
#[Group('today')]
final class TableUsageTest extends TestCase
{
    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-29 06:00:00');
        $this->cluster = $this->cluster();
    }

    /**
     * @param  list<array{string, int, int, string, int}>  $runs statement, first and last day of November, user, bytes a day
     */
    private function ran(array $runs, string $cluster = 'fernhill'): void
    {
        $records = [];
        foreach ($runs as [$sql, $first, $last, $user, $bytes]) {
            foreach (range($first, $last) as $day) {
                $records[] = [
                    'started_at' => (int) strtotime(sprintf('2026-11-%02d 03:00 UTC', $day)), 'duration_us' => 60_000_000, 'sql' => $sql,
                    'user' => $user, 'database' => 'farm', 'bytes_scanned' => $bytes,
                ];
            }
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => $cluster]);
        Artisan::call('usage:close');
    }

    /**
     * @return array<string, Used>
     */
    private function use(string $days = '2026-11-28', UsageMeasure $measure = UsageMeasure::Scanned): array
    {
        $days = Days::parse($days, Clock::seconds());

        return app(TableUsage::class)->of(UsageScope::within($days, $measure), $days);
    }

    /**
     * @return array<string, int>
     */
    private function amounts(string $days = '2026-11-28'): array
    {
        return array_map(static fn (Used $one): int => $one->amount, $this->use($days));
    }

    public function test_a_statements_use_is_shared_among_its_tables(): void
    {
        $this->ran([
            ['SELECT x FROM pick', 28, 28, 'ada', 1_000],
            ['SELECT x FROM pick p JOIN ref.bay b ON b.i = p.i JOIN ref.house h ON h.i = b.h', 28, 28, 'ada', 100],
            ['INSERT INTO field.sums SELECT x FROM farm.pick', 28, 28, 'ada', 10],
            ['SELECT 1', 28, 28, 'ada', 7],
        ]);
        self::assertEqualsCanonicalizing(
            ['farm.pick' => 1_000 + 33 + 5, 'ref.bay' => 34, 'ref.house' => 33, 'field.sums' => 5, TableUsage::NONE => 7],
            $this->amounts(),
        );
        self::assertSame([3, 1], [$this->use()['farm.pick']->executions, $this->use()[TableUsage::NONE]->executions]);
        $this->actingAs($this->person(Role::Viewer))->get('/meter/usage?days=2026-11-28')->assertOk()
            ->assertSee('Tables that were used most')->assertSee('farm.pick');
    }

    public function test_a_measured_plan_says_which_table_the_bytes_were_of(): void
    {
        $sql = 'SELECT x FROM pick p JOIN ref.bay b ON b.i = p.i';
        $this->ran([[$sql, 28, 28, 'ada', 1_000]]);
        self::assertEqualsCanonicalizing(['farm.pick' => 500, 'ref.bay' => 500], $this->amounts());
        $scan = static fn (string $table, int $bytes): PlanStep => new PlanStep(
            StepKind::Scan, table: new TableFacts($table), reads: new StepReads(bytes: $bytes),
        );
        $plan = static fn (bool $actual, int $a, int $b): Plan => new Plan(
            new PlanStep(StepKind::HashJoin, inputs: [$scan('farm.pick', $a), $scan('ref.bay', $b)]), 'practice', true, $actual,
        );
        $statement = (string) DB::table('statements')->value('fingerprint');
        $keep = function (Plan $plan, int $atUs) use ($statement): void {
            app(PlanStore::class)->keep($this->cluster->id, $statement, $plan, $atUs);
            Artisan::call('usage:close');
        };
        // What is only estimated tells nothing.
        $keep($plan(false, 9, 1), 1);
        self::assertSame(500, $this->amounts()['ref.bay']);
        $keep($plan(true, 3, 1), 2);
        self::assertEqualsCanonicalizing(['farm.pick' => 750, 'ref.bay' => 250], $this->amounts());
        self::assertSame([1, 1], DB::table('statement_tables')->pluck('by_plan')->map(static fn ($one): int => (int) $one)->all());
    }

    public function test_all_tables_together_are_all_use(): void
    {
        $this->cluster('orchard', Dialect::MariaDb);
        $this->ran([
            ['SELECT x FROM pick', 20, 28, 'ada', 1_001],
            ['WITH k AS (SELECT x FROM a.b) SELECT x FROM k, c.d, e.f', 21, 28, 'bren', 100_003],
            ['DELETE FROM field.sums WHERE i = 4', 25, 28, 'ada', 11],
            ['SELECT FROM WHERE', 26, 28, 'ada', 13],
        ]);
        $this->ran([['SELECT x FROM pick FOR UPDATE', 20, 28, 'cleo', 17], ['COMMIT', 20, 28, 'cleo', 0]], 'orchard');
        foreach (UsageMeasure::cases() as $measure) {
            foreach (['2026-11-28', '2026-11-20 to 2026-11-28', 'last month'] as $text) {
                $days = Days::parse($text, Clock::seconds());
                $scope = UsageScope::within($days, $measure);
                $all = 0;
                foreach (app(UsageReader::class)->perStatement($scope, $days) as [, , $used]) {
                    $all += $used->amount;
                }
                $tables = array_sum(array_map(static fn (Used $one): int => $one->amount, app(TableUsage::class)->of($scope, $days)));
                self::assertSame($all, $tables, "{$measure->value} {$text}");
            }
        }
        // What is limited to a team is so by table too.
        $days = Days::parse('2026-11-28', Clock::seconds());
        $scope = UsageScope::within($days, UsageMeasure::Scanned, teams: []);
        self::assertSame([], app(TableUsage::class)->of($scope, $days));
    }

    public function test_results_that_are_written_and_not_read_any_more_are_found(): void
    {
        $insert = 'INSERT INTO field.night SELECT x FROM field.pick WHERE day = 4';
        $this->ran([
            [$insert, 1, 28, 'ops_old', 5],
            ['SELECT x FROM field.night WHERE day = 3', 1, 9, 'ada', 5],
            // Read to the end, read rarely, never read, and no longer written.
            ['INSERT INTO field.day SELECT x FROM field.pick', 1, 28, 'loaders', 5],
            ['SELECT x FROM field.day', 1, 28, 'ada', 5],
            ['INSERT INTO field.month SELECT x FROM field.pick', 1, 28, 'loaders', 5],
            ['SELECT x FROM field.month', 17, 17, 'ada', 5],
            ['INSERT INTO field.log VALUES (1)', 1, 28, 'loaders', 5],
            ['INSERT INTO field.old SELECT x FROM field.pick', 1, 20, 'loaders', 5],
            ['SELECT x FROM field.old', 1, 3, 'ada', 5],
            ['SELECT x FROM field.pick', 1, 28, 'ada', 5],
        ]);
        $finding = Finding::query()->where('source', 'unread')->sole();
        self::assertSame('field.night is still written by ops_old; it was last read on 9 Nov', $finding->problem);
        self::assertSame(['unread-results', 'watch', 'open'], [$finding->rule, $finding->severity->value, $finding->state->value]);
        // A minute on each of seven days.
        self::assertSame(7 * 60e6, $finding->weight);
        self::assertSame('7 times, 7 min in flight', array_column($finding->evidence, 'value', 'label')['written last week']);
        self::assertStringContainsString('20 days ago', array_column($finding->evidence, 'value', 'label')['last read']);
        self::assertStringStartsWith('INSERT INTO field.night', array_column($finding->evidence, 'value', 'label')['written by']);
        self::assertSame(1, DB::table('finding_statements')->where('finding_id', $finding->id)->count());
        $this->actingAs($this->person(Role::Engineer))->get('/')->assertOk()->assertSee('it was last read on');
        $this->get("/ledger/findings/{$finding->id}")->assertOk()->assertSee('end the schedule and drop the table');
        // Somebody reads it: it is solved.
        $this->ran([['SELECT count(*) FROM field.night', 29, 29, 'bren', 5]]);
        self::assertSame(FindingState::Solved, $finding->refresh()->state);
    }
}
