<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Statements\Application\LoadSeries;
use App\Statements\Application\OriginFilter;
use App\Statements\Application\Ranking;
use App\Statements\Application\StatementScope;
use App\Statements\Application\WindowComparison;
use App\Telemetry\Store\Sums;
use DateTimeZone;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Statements\StatementChange;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Core\Time\Window;
use Illuminate\Database\Events\QueryExecuted;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\TestCase;

/**
 * What the pages say, against sums taken straight from the records.
 */
final class RankingTest extends TestCase
{
    private const START = 1_795_100_400;

    private Cluster $fernhill;

    /** @var list<array<string, mixed>> */
    private array $records = [];

    protected function setUp(): void
    {
        parent::setUp();
        $this->fernhill = $this->cluster();
        $random = new Randomizer(new Mt19937(43));
        for ($i = 0; $i < 3_000; $i++) {
            $s = $random->getInt(0, 24);
            $this->records[] = [
                'started_at' => gmdate('Y-m-d\TH:i:s', self::START + $random->getInt(0, 4 * 86_400)).sprintf('.%06dZ', $i),
                'duration_us' => (int) exp($random->getInt(5_000, 20_000) / 1_000) * (1 + $s),
                'sql' => "SELECT c_{$s}_x FROM t WHERE a = {$i}",
                'user' => ['ada', 'bo', 'cy'][$i % 3],
                'database' => ['d1', 'd2'][$s % 2],
                'rows_examined' => $random->getInt(0, 9_000),
                'rows_returned' => $random->getInt(1, 30),
                'bytes_scanned' => $random->getInt(0, 1_000_000),
                'full_scan' => $s % 4 === 0,
                'warnings' => $s === 3 ? ['odd'] : [],
                'status' => $s === 5 && $i % 2 === 0 ? 'timed_out' : 'ok',
            ];
        }
        self::assertSame(0, Artisan::call('telemetry:import', ['file' => $this->file($this->records), '--cluster' => 'fernhill']));
    }

    public function test_sums_are_remembered_until_more_is_written(): void
    {
        $window = new Window(self::START, self::START + 4 * 86_400 + 300);
        $scope = new StatementScope($this->fernhill, $window, 'test', new DateTimeZone('UTC'), new OriginFilter());
        $asked = [];
        DB::listen(static function (QueryExecuted $query) use (&$asked): void {
            if (preg_match('~FROM load_\w+~', $query->sql) === 1) {
                $asked[] = $query->sql;
            }
        });
        $all = function () use ($scope, $window): array {
            $sums = app(Sums::class);
            $perStatement = $sums->perStatement($this->fernhill->id, $window, ['executions', 'load_us']);

            return [
                array_sum(array_column($perStatement, 'executions')),
                array_sum(app(LoadSeries::class)->of($scope, 'user', null)['executions']),
                array_sum(
                    array_map(
                        static fn (LatencySketch $one): int => $one->count(),
                        $sums->sketches($this->fernhill->id, $window, array_keys($perStatement)),
                    ),
                ),
                array_sum(app(LoadSeries::class)->rail($this->fernhill->id, self::START + 5 * 86_400)['loads']),
            ];
        };
        $first = $all();
        self::assertSame([3_000, 3_000, 3_000], array_slice($first, 0, 3));
        self::assertNotSame([], $asked);
        $before = count($asked);
        self::assertSame($first, $all());
        self::assertCount($before, $asked, 'asked a second time, nothing is summed again');
        $more = [
            'started_at' => gmdate('Y-m-d\TH:i:s\Z', self::START + 90),
            'duration_us' => 4_000_000,
            'sql' => 'SELECT c_1_x FROM t WHERE a = 0',
            'user' => 'ada',
        ];
        self::assertSame(0, Artisan::call('telemetry:import', ['file' => $this->file([$more]), '--cluster' => 'fernhill']));
        $second = $all();
        self::assertSame([3_001, 3_001, 3_001], array_slice($second, 0, 3));
        self::assertEqualsWithDelta($first[3] + 4 / 3600, $second[3], 1e-9);
        // Another cluster's load is another's.
        $stamp = DB::table('clusters')->where('id', $this->fernhill->id)->value('load_stamp');
        $other = Cluster::query()->create(['slug' => 'wren', 'name' => 'Wren', 'connector' => 'files', 'dialect' => Dialect::Ansi]);
        self::assertSame(0, Artisan::call('telemetry:import', ['file' => $this->file([$more]), '--cluster' => 'wren']));
        self::assertSame($stamp, DB::table('clusters')->where('id', $this->fernhill->id)->value('load_stamp'));
        self::assertSame([1], array_column(app(Sums::class)->perStatement($other->id, $window, ['executions']), 'executions'));
    }

    public function test_quantiles_are_said_to_be_as_good_as_what_is_known(): void
    {
        $all = gmdate('Y-m-d', self::START).' to '.gmdate('Y-m-d', self::START + 4 * 86_400);
        $page = '/tune/statements?'.http_build_query(['cluster' => 'fernhill', 'window' => $all]);
        $this->actingAs($this->person())->get($page)->assertOk()->assertSee('Quantiles are exact to 1%.')->assertDontSee('known singly');
    }

    public function test_what_ran_rarely_is_told_with_its_hours_or_its_days(): void
    {
        $this->travelTo('2026-11-20 12:00:00 UTC');
        $this->cluster('wren');
        $run = static fn (string $at, string $sql, int $durationUs): array => [
            'started_at' => $at, 'duration_us' => $durationUs, 'sql' => $sql, 'rows_examined' => 400, 'rows_returned' => 2,
        ];
        $day = '2026-11-20';
        $records = array_map(static fn (int $i): array => $run("{$day}T00:00:{$i}Z", 'SELECT light', 1_000), range(10, 40));
        $records[] = $run("{$day}T00:02:00Z", 'SELECT heavy', 2_000_000);
        $records[] = $run("{$day}T00:07:00Z", 'SELECT heavy', 4_000_000);
        $records[] = $run("{$day}T00:03:00Z", 'SELECT once', 1_000_000);
        $records[] = $run('2026-11-18T23:00:00Z', 'SELECT apart', 2_000_000);
        $records[] = $run("{$day}T00:01:00Z", 'SELECT apart', 2_000_000);
        self::assertSame(0, Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'wren']));
        $dayName = 'Fri 20 Nov';
        $page = $this->actingAs($this->person())->get('/tune/statements/anomalies?cluster=wren')->assertOk();
        $page->assertSee("Ran 2 times on {$dayName} between 00:00 and 00:10 UTC, 3 s each: 54%");
        $page->assertSee("Ran once on {$dayName} between 00:00 and 00:05 UTC, 1 s: 9");
        $page->assertSee("Ran 2 times between Wed 18 Nov and {$dayName}, 2 s each: 36");
        DB::table('load_five_minute')->delete();
        $this->get('/tune/statements/anomalies?cluster=wren')->assertSee("Ran 2 times on {$dayName}, 3 s each");
    }

    public function test_what_fails_more_often_than_not_is_told_with_what_was_said(): void
    {
        $this->travelTo('2026-11-20 12:00:00 UTC');
        $this->cluster('wren');
        $records = [];
        $run = static function (string $sql, int $times, int $failed, string $said = '') use (&$records): void {
            for ($i = 0; $i < $times; $i++) {
                $at = sprintf('2026-11-20T0%d:%02d:%02dZ', $i % 3, $i % 60, count($records) % 60);
                $records[] = ['started_at' => $at, 'duration_us' => 1_000 + $i, 'sql' => $sql, 'user' => "u{$i}"] +
                    ($i < $failed ? ['status' => 'error', 'error' => $said] : []);
            }
        };
        $run('INSERT INTO pick VALUES (1)', 40, 40, "Duplicate entry '7' for key 'PRIMARY'");
        $run('UPDATE pick SET kilos = 1', 20, 10, 'Deadlock found');
        $run('DELETE FROM pick WHERE id = 1', 21, 10, 'No such table');
        $run('SELECT kilos FROM pick', 19, 19, 'No such column');
        self::assertSame(0, Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'wren']));
        $page = $this->actingAs($this->person())->get('/tune/statements/anomalies?cluster=wren')->assertOk();
        $page->assertSeeInOrder([
            'always fails', 'Failed in 40 of 40 runs since Thu 19 Nov, mostly with “Duplicate entry', 'INSERT INTO pick',
            'mostly fails', 'Failed in 10 of 20 runs since Thu 19 Nov, mostly with “Deadlock found”.', 'UPDATE pick',
        ]);
        $page->assertDontSee("'7'", false)->assertDontSee('No such table')->assertDontSee('No such column');
    }

    public function test_every_ranking_agrees_with_the_records(): void
    {
        $window = new Window(self::START + 7_200, self::START + 3 * 86_400 + 5_700);
        foreach ([new OriginFilter(), new OriginFilter(user: 'bo'), new OriginFilter(words: 'c_1', flags: ['full_scan'])] as $filter) {
            $expected = [];
            foreach ($this->records as $record) {
                $at = strtotime((string) $record['started_at']);
                preg_match('~c_(\d+)_x~', (string) $record['sql'], $m);
                if (
                    $at >= $window->from &&
                    $at < $window->to &&
                    ($filter->user === '' || $record['user'] === $filter->user) &&
                    ($filter->words === '' || (str_contains((string) $record['sql'], 'c_1') && (int) $m[1] % 4 === 0))
                ) {
                    $expected[(int) $m[1]][] = $record;
                }
            }
            foreach (array_keys(Ranking::ORDERS) as $order) {
                $page = app(Ranking::class)->of($this->scope($window, $filter), $order, 1, 100);
                self::assertSame(count($expected), $page->matching);
                $last = INF;
                foreach ($page->rows as $row) {
                    preg_match('~c_(\d+)_x~', $row->text, $m);
                    $runs = $expected[(int) $m[1]];
                    $durations = array_column($runs, 'duration_us');
                    sort($durations);
                    self::assertSame(
                        [
                            count($runs),
                            array_sum($durations),
                            array_sum(array_column($runs, 'rows_examined')),
                            array_sum(array_column($runs, 'bytes_scanned')),
                            $durations[0],
                            end($durations),
                        ],
                        [
                            $row->sums['executions'],
                            $row->sums['duration_us'],
                            $row->sums['rows_examined'],
                            $row->sums['bytes_scanned'],
                            $row->sums['min_us'],
                            $row->sums['max_us'],
                        ],
                    );
                    $p95 = $durations[(int) ceil(0.95 * count($durations)) - 1];
                    self::assertEqualsWithDelta($p95, $row->percentiles->p95Us, 0.01 * $p95);
                    self::assertLessThanOrEqual(
                        [$row->percentiles->p99Us, end($durations)],
                        [$row->percentiles->p95Us, $row->percentiles->p99Us],
                        'no quantile is above the longest run',
                    );
                    self::assertLessThanOrEqual($last, $row->measure, $order);
                    $last = $row->measure;
                }
            }
            // A page further on shows the same order.
            $all = app(Ranking::class)->of($this->scope($window, $filter), 'p99', 1, 100)->rows;
            $second = app(Ranking::class)->of($this->scope($window, $filter), 'p99', 2, 3)->rows;
            self::assertSame(
                array_map(static fn ($row): int => $row->id, array_slice($all, 3, 3)),
                array_map(static fn ($row): int => $row->id, $second),
            );
        }
    }

    public function test_every_split_of_the_load_adds_up_to_the_same(): void
    {
        foreach ([new Window(self::START, self::START + 7_200), new Window(self::START, self::START + 3 * 86_400)] as $window) {
            $total = null;
            foreach (array_keys(LoadSeries::SPLITS) as $split) {
                $series = app(LoadSeries::class)->of($this->scope($window), $split, null);
                $sum = 0.0;
                foreach ($series['times'] as $i => $time) {
                    $sum += array_sum(array_column($series['series'], $i)) * $window->length($time, $series['step']);
                }
                $total ??= $sum;
                self::assertGreaterThan(0, $sum);
                self::assertEqualsWithDelta($total, $sum, 1e-6 * $total, $split);
            }
        }
    }

    public function test_intervals_hold_what_ran_in_the_window_and_nothing_beside_it(): void
    {
        foreach ([[300, 2_100], [3_900, 40 * 3_600 + 300], [5_700, 3 * 86_400 + 8_100], [900, 4 * 86_400]] as [$from, $to]) {
            $window = new Window(self::START + $from, self::START + $to);
            $inside = array_filter(
                $this->records,
                static fn (array $record): bool => strtotime((string) $record['started_at']) >= $window->from &&
                    strtotime((string) $record['started_at']) < $window->to,
            );
            $series = app(LoadSeries::class)->of($this->scope($window), 'user', null);
            self::assertSame(count($inside), array_sum($series['executions']));
            self::assertSame($window->from, $series['times'][0]);
            self::assertLessThan($window->to, max($series['times']));
            self::assertSame(count($inside), app(LoadSeries::class)->means($this->scope($window), $window, null)['executions']);
            $first = $series['times'][1];
            $early = array_filter($inside, static fn (array $record): bool => strtotime((string) $record['started_at']) < $first);
            self::assertSame(count($early), $series['executions'][0], 'the first interval begins with the window');
            $rates = app(LoadSeries::class)->of($this->scope($window), 'user', null, true)['series'];
            self::assertEqualsWithDelta(
                count($early) / ($first - $window->from),
                array_sum(array_column($rates, 0)),
                1e-9,
                'a rate is of the seconds the interval has',
            );
        }
    }

    public function test_shares_of_a_comparison_have_the_sign_of_the_change(): void
    {
        $query = http_build_query([
            'window' => gmdate('Y-m-d H:i', self::START + 86_400).' to '.gmdate('Y-m-d H:i', self::START + 2 * 86_400),
        ]);
        $page = (string) $this->actingAs($this->person())
            ->get("/tune/compare?{$query}")
            ->assertOk()
            ->getContent();
        preg_match_all('~<tr data-row>(.*?)</tr>~s', $page, $rows);
        $seen = [];
        foreach ($rows[1] as $row) {
            preg_match_all('~<td class="n">(.*?)</td>~s', $row, $cells);
            [$change, $share] = [trim(strip_tags($cells[1][0])), trim(html_entity_decode($cells[1][1]))];
            $sign = mb_substr($share, 0, 1);
            self::assertSame(str_starts_with($change, '+') ? '+' : "\u{2212}", $sign, "{$change} and {$share}");
            $seen[$sign] = true;
        }
        self::assertCount(2, $seen, 'some rose and some fell');
    }

    public function test_a_comparison_of_windows_adds_up(): void
    {
        $now = new Window(self::START + 86_400, self::START + 2 * 86_400);
        $result = app(WindowComparison::class)->of($this->scope($now), $now->before());
        self::assertNotSame([], $result['changes']);
        self::assertEqualsWithDelta(
            $result['after'] - $result['before'],
            array_sum(array_map(static fn (StatementChange $change): float => $change->change(), $result['changes'])),
            1e-9,
        );
    }

    public function test_taken_away_tables_hold_what_the_page_holds(): void
    {
        $query = http_build_query(['window' => gmdate('Y-m-d H:i', self::START).' to '.gmdate('Y-m-d H:i', self::START + 5 * 86_400)]);
        $this->actingAs($this->person());
        $json = json_decode(
            $this->get("/tune/statements/export/json?{$query}")
                ->assertOk()
                ->streamedContent(),
            true,
        );
        self::assertIsArray($json);
        self::assertCount(25, $json);
        self::assertSame(3_000, array_sum(array_column($json, 'executions')));
        $lines = array_map(
            static fn (string $line): array => str_getcsv($line, ',', '"', ''),
            Parts::between($this->get("/tune/statements/export/csv?{$query}")->streamedContent(), "\n"),
        );
        self::assertSame(array_keys($json[0]), $lines[0]);
        self::assertCount(26, $lines);
        self::assertStringStartsWith(
            '[',
            $this->get("/tune/compare/export/json?{$query}")
                ->assertOk()
                ->streamedContent(),
        );
    }

    private function scope(Window $window, OriginFilter $filter = new OriginFilter()): StatementScope
    {
        return new StatementScope($this->fernhill, $window, 'test', new DateTimeZone('UTC'), $filter);
    }
}
