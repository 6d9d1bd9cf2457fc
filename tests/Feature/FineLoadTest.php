<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\Connectors;
use App\Estate\Connectors\DigestReading;
use App\Estate\Connectors\RecentReading;
use App\Estate\Connectors\StatementSource;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\ChangeMarks;
use App\Ledger\Models\Change;
use App\Platform\Figures\TimeMarks;
use App\Platform\Support\Clock;
use App\Statements\Application\LoadSeries;
use App\Statements\Application\OriginFilter;
use App\Statements\Application\StatementDetail;
use App\Statements\Application\StatementScope;
use App\Telemetry\Collect\Collector;
use App\Telemetry\Store\FineLoadStore;
use App\Telemetry\Store\PlanStore;
use DateTimeZone;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Time\Window;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Tests\TestCase;

/**
 * The load of a live server by half minutes, and what happened to it, in figures over time.
 */
final class FineLoadTest extends TestCase
{
    private Cluster $cluster;

    private int $count = 0;

    protected function setUp(): void
    {
        parent::setUp();
        $this->cluster = Cluster::query()->create([
            'slug' => 'glass', 'name' => 'Glass', 'role' => 'production', 'connector' => 'mariadb', 'dialect' => Dialect::MariaDb,
            'host' => '127.0.0.1', 'port' => 3306, 'username' => 'watcher', 'secret' => 'w',
        ])->refresh();
        // A border of five minutes, ten minutes ago at least.
        $this->travelTo(Clock::now()->setTimestamp(intdiv(Clock::seconds(), 300) * 300));
    }

    /** Reads the server after so long, when so many more runs of 20 ms ended. */
    private function after(int $seconds, int $more): void
    {
        $this->travel($seconds)->seconds();
        $this->count += $more;
        $source = self::createStub(StatementSource::class);
        $source->method('digests')->willReturn([new DigestReading(
            'k',
            'farm',
            'SELECT `a` FROM `pick`',
            ['count' => $this->count, 'duration_us' => $this->count * 20_000],
            20_000,
            20_000,
            'A',
            1_700_000_000_000_000,
            Clock::microseconds(),
        )]);
        $source->method('recent')->willReturn(new RecentReading([], 0));
        $this->app->instance(Connectors::class, new class($source) extends Connectors
        {
            public function __construct(private readonly StatementSource $source)
            {
            }

            public function statements(Cluster $cluster): StatementSource
            {
                return $this->source;
            }
        });
        $this->app->make(Collector::class)->poll($this->cluster->refresh());
    }

    private function scope(int $from, int $to): StatementScope
    {
        return new StatementScope($this->cluster->refresh(), new Window($from, $to), 'test', new DateTimeZone('UTC'), new OriginFilter());
    }

    public function test_a_spike_of_half_a_minute_is_seen_where_it_was_and_nothing_is_lost_or_counted_twice(): void
    {
        $began = Clock::seconds();
        $this->after(0, 100);
        for ($i = 1; $i <= 60; $i++) {
            // For thirty seconds, from eight minutes on, two hundred times as much.
            $this->after(10, $i > 48 && $i <= 51 ? 2_000 : 10);
        }
        $fine = app(LoadSeries::class)->of($this->scope($began, $began + 600), 'kind', null);
        self::assertSame([30, 20], [$fine['step'], count($fine['times'])]);
        self::assertSame($began + 480, $fine['times'][16]);
        $expected = array_fill(0, 20, 30);
        $expected[16] = 6_000;
        self::assertSame($expected, $fine['executions']);
        // 6,000 runs of 20 ms in 30 s.
        [$load] = array_values($fine['series']);
        self::assertEqualsWithDelta(4.0, $load[16], 1e-9);
        self::assertEqualsWithDelta(0.02, $load[3], 1e-9);
        $coarse = DB::table('load_five_minute')->where('cluster_id', $this->cluster->id)->sum('executions');
        self::assertEquals($coarse, array_sum($fine['executions']));
        self::assertEquals(
            DB::table('load_five_minute')->where('cluster_id', $this->cluster->id)->sum('load_us'),
            DB::table('load_half_minute')->where('cluster_id', $this->cluster->id)->sum('load_us'),
        );
        foreach (['user', 'database', 'application', 'time'] as $split) {
            $by = app(LoadSeries::class)->of($this->scope($began, $began + 600), $split, null);
            self::assertEqualsWithDelta(4.0, array_sum(array_column($by['series'], 16)), 1e-9, $split);
        }
        // The page of the statement too, and what the pages say.
        $id = (int) DB::table('statements')->value('id');
        $one = app(StatementDetail::class)->series($id, $this->scope($began, $began + 600), new Window($began, $began + 600));
        self::assertEquals([30, 6_000, 20_000.0], [$one['step'], $one['executions'][16], $one['meanUs'][16]]);
        $this->actingAs($this->person())->get('/tune/statements?cluster=glass&window=last+hour')
            ->assertOk()
            ->assertSee('interval of 30 s');
    }

    public function test_intervals_are_fine_only_where_they_were_read_so(): void
    {
        $now = Clock::seconds();
        $step = fn (int $from, int $to): int => LoadSeries::stepOf($this->scope($from, $to));
        self::assertSame(
            [30, 30, 60, 60, 300],
            [
                $step($now - 300, $now), $step($now - 5_400, $now), $step($now - 5_700, $now), $step($now - 10_800, $now),
                $step($now - 11_100, $now),
            ],
        );
        self::assertSame([30, 300], [$step($now - 26 * 3_600, $now - 25 * 3_600), $step($now - 26 * 3_600 - 300, $now - 25 * 3_600)]);
        $this->cluster->update(['connector' => 'files']);
        self::assertSame(300, $step($now - 300, $now), 'of records one has what they say');
    }

    public function test_what_was_read_before_it_was_kept_so_finely_is_not_hidden(): void
    {
        $began = Clock::seconds();
        $this->after(0, 100);
        for ($i = 0; $i < 120; $i++) {
            $this->after(10, 10);
        }
        DB::table('load_half_minute')->where('bucket_at', '<', $began + 900)->delete();
        $step = fn (int $from, int $to): int => LoadSeries::stepOf($this->scope($began + $from, $began + $to));
        self::assertSame([300, 300, 30, 30], [$step(0, 1_200), $step(300, 900), $step(900, 1_200), $step(-600, 0)]);
        $all = app(LoadSeries::class)->of($this->scope($began, $began + 1_200), 'kind', null);
        // What was read at its very end is of the next five minutes.
        self::assertSame(1_190, array_sum($all['executions']));
    }

    public function test_what_grew_while_nobody_read_is_not_put_anywhere(): void
    {
        $this->after(0, 100);
        $this->after(130, 500);
        self::assertSame(0, DB::table('load_half_minute')->count());
        self::assertEquals(500, DB::table('load_five_minute')->sum('executions'));
        $this->after(100, 70);
        self::assertEquals(70, DB::table('load_half_minute')->sum('executions'));
        self::assertGreaterThan(3, DB::table('load_half_minute')->count(), 'spread over the time between');
        // After somewhat more than a day it is gone, and the coarse ones stay.
        $this->travel(29)->hours();
        Artisan::call('telemetry:prune');
        self::assertEquals(70, DB::table('load_half_minute')->sum('executions'));
        $this->travel(2)->hours();
        Artisan::call('telemetry:prune');
        self::assertSame(0, DB::table('load_half_minute')->count());
        self::assertEquals(570, DB::table('load_five_minute')->sum('executions'));
        (new FineLoadStore())->add($this->cluster, []);
    }

    public function test_what_happened_stands_on_the_rail_and_in_the_figures(): void
    {
        $this->after(0, 100);
        $this->after(10, 50);
        $this->after(10, 50);
        $now = Clock::seconds();
        DB::table('server_events')->insert([
            'cluster_id' => $this->cluster->id, 'kind' => 'restart', 'name' => '', 'before' => '', 'at_us' => ($now - 5) * 1_000_000,
        ]);
        foreach ([[5, $now - 15, null], [6, $now - 5, null], [7, $now - 90_000, $now - 5]] as [$id, $applied, $undone]) {
            Change::query()->create([
                'id' => $id, 'cluster_id' => $this->cluster->id, 'object' => 'farm.pick', 'title' => 'T', 'kind' => 'index',
                'sealed_steps' => [], 'sealed_inverse' => [], 'workload' => [], 'expected' => [], 'inverse' => 'none', 'state' => 'applied',
                'asked_us' => 1, 'asked_by' => 'x', 'applied_us' => $applied * 1_000_000,
                'undone_us' => $undone === null ? null : $undone * 1_000_000,
            ]);
        }
        $ids = Change::query()->orderBy('id')->pluck('id')->all();
        self::assertSame(
            [$now - 15 => "change {$ids[0]} applied", $now - 5 => "change {$ids[1]} applied, change {$ids[2]} undone"],
            ChangeMarks::of($this->cluster->id, $now - 100, $now),
        );
        self::assertSame([], ChangeMarks::of($this->cluster->id, $now - 4, $now), 'its end does not count, its beginning does');
        self::assertSame([$now - 15], array_keys(ChangeMarks::of($this->cluster->id, $now - 15, $now - 5)));
        self::assertSame([], ChangeMarks::of($this->cluster->id + 1, $now - 100, $now));
        $marks = app(TimeMarks::class)->of($this->cluster->id, $now - 100, $now);
        self::assertSame([$now - 15, $now - 5], array_keys($marks));
        self::assertStringContainsString('started', $marks[$now - 5]);
        self::assertStringContainsString("change {$ids[1]} applied", $marks[$now - 5]);
        $page = $this->actingAs($this->person())->get('/tune/statements?cluster=glass&window=last+hour')->assertOk();
        // The rail, the drawing, and what it is drawn from at other widths.
        self::assertSame(3, substr_count((string) $page->getContent(), 'class="happened"'), 'one of them a day ago');
        $page->assertSee('class="limit"', false)->assertSee('data-plot', false)->assertSee("change {$ids[0]} applied");
        $fingerprint = (string) DB::table('statements')->value('fingerprint');
        foreach (['ALL' => 60, 'index' => 20] as $access => $ago) {
            $plan = Plan::read('{"query_block": {"select_id": 1, "table": {"table_name": "pick", "access_type": "'.$access.'", '
                .($access === 'index' ? '"key": "by_a", ' : '').'"rows": 10, "filtered": 100}}}');
            app(PlanStore::class)->keep($this->cluster->id, $fingerprint, $plan, ($now - $ago) * 1_000_000);
        }
        self::assertSame([$now - 20], app(PlanStore::class)->changed($this->cluster->id, $fingerprint, $now - 100, $now));
        self::assertSame([], app(PlanStore::class)->changed($this->cluster->id, $fingerprint, $now - 19, $now));
        self::assertSame([], app(PlanStore::class)->changed($this->cluster->id, $fingerprint, $now - 100, $now - 20));
        $this->get("/tune/statements/{$fingerprint}?cluster=glass&window=last+hour")->assertOk()->assertSee('new plan');
        $this->get('/tend/state/beside?cluster=glass&window=last+hour')->assertOk()->assertSee('The server at the same time');
        $this->get('/tend/state/beside?cluster=glass&window=what')->assertStatus(422);
        $this->get('/tend/state/beside?cluster=none&window=last+hour')->assertNotFound();
    }
}
