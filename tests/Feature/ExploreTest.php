<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Platform\Support\Role;
use App\Telemetry\Usage\UsageAxis;
use App\Usage\Application\UsageGrid;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Parquet\StringSource;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\TeamMembership;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use Illuminate\Testing\TestResponse;
use Opis\JsonSchema\Validator;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\TestCase;

/**
 * Any measure of use by any two fields.
 */
final class ExploreTest extends TestCase
{
    private const DAY = 86_400;

    public function test_whatever_is_shown_the_totals_are_those_of_the_facts(): void
    {
        $random = new Randomizer(new Mt19937(8));
        for ($world = 0; $world < 60; $world++) {
            $facts = [];
            for ($i = $random->getInt(0, 900); $i > 0; $i--) {
                $facts["{$random->getInt(0, 90)} {$random->getInt(0, 70)}"] = $random->getInt(0, 10 ** 12);
            }
            $list = [];
            foreach ($facts as $key => $amount) {
                [$row, $column] = explode(' ', "{$key}");
                $list[] = [$row, $column, $amount];
            }
            [$rowsAreTime, $columnsAreTime] = [$random->getInt(0, 1) === 1, $random->getInt(0, 1) === 1];
            $grid = UsageGrid::of($list, $rowsAreTime, $columnsAreTime);
            $sum = array_sum($facts);
            self::assertSame($sum, $grid->total);
            self::assertSame($sum, array_sum($grid->rowTotals));
            self::assertSame($sum, array_sum($grid->columnTotals));
            foreach ($grid->rows as $row) {
                $cells = array_map(static fn (string $column): int => $grid->cell($row, $column), $grid->columns);
                self::assertSame($grid->rowTotals[$row], array_sum($cells));
            }
            self::assertLessThanOrEqual(UsageGrid::ROWS + 1, count($grid->rows));
            self::assertLessThanOrEqual(($columnsAreTime ? UsageGrid::MOST_TIMES : UsageGrid::COLUMNS) + 1, count($grid->columns));
            if (! $columnsAreTime) {
                $shown = array_values(array_filter($grid->columns, static fn (string $one): bool => $one !== UsageGrid::OTHER));
                for ($i = 1; $i < count($shown); $i++) {
                    [$here, $before] = [$grid->columnTotals[$shown[$i]], $grid->columnTotals[$shown[$i - 1]]];
                    self::assertGreaterThanOrEqual($here, $before, 'the largest first');
                }
            }
        }
    }

    public function test_time_keeps_its_order_and_its_latest(): void
    {
        $facts = array_map(static fn (int $day): array => [(string) ($day * self::DAY), 'x', 100 - $day], range(0, 79));
        $grid = UsageGrid::of($facts, true, false);
        self::assertSame((string) (20 * self::DAY), $grid->rows[0]);
        self::assertSame([(string) (79 * self::DAY), UsageGrid::OTHER], array_slice($grid->rows, -2));
        self::assertSame(20, $grid->otherRows);
    }

    private function world(): void
    {
        Carbon::setTestNow('2026-11-20 14:00:00');
        $this->cluster();
        $this->belong(new TeamMembership('ada', 'pickers', 0, null), new TeamMembership('bren', 'lab', 0, null));
        $records = [];
        $noon = (int) strtotime('2026-11-20 UTC') + 12 * 3_600;
        $each = [['ada', 'slow', 'field', 300], ['ada', 'fast', 'trade', 20], ['bren', 'slow', 'field', 5_000]];
        foreach (range(1, 21) as $day) {
            foreach ($each as $i => [$user, $queue, $of, $bytes]) {
                $records[] = [
                    'started_at' => $noon - $day * self::DAY + $i, 'duration_us' => 1_000, 'sql' => "SELECT {$user} FROM {$of}",
                    'user' => $user, 'queue' => $queue, 'database' => $of, 'bytes_scanned' => $bytes,
                ];
            }
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
        Artisan::call('usage:close');
    }

    /**
     * @return array<string, array<string, int|string>> rows by their first column
     */
    private function table(string $query): array
    {
        $rows = json_decode($this->get("/meter/explore/export/json?{$query}")->assertOk()->streamedContent(), true);

        return array_column($rows, null, array_key_first($rows[0] ?? ['x' => 1]));
    }

    public function test_any_field_by_any_other_adds_up_to_the_load(): void
    {
        $this->world();
        $this->actingAs($this->person(Role::Viewer));
        self::assertSame(
            [
                'lab' => ['team' => 'lab', 'slow' => 70_000, 'fast' => 0, 'total' => 70_000],
                'pickers' => ['team' => 'pickers', 'slow' => 4_200, 'fast' => 280, 'total' => 4_480],
            ],
            $this->table('rows=team&columns=queue&days=last+14+days'),
        );
        $all = (int) DB::table('load_day')->sum('bytes_scanned');
        foreach (UsageAxis::all() as $rows) {
            foreach (UsageAxis::all() as $columns) {
                $table = $this->table("rows={$rows->key}&columns={$columns->key}&days=last+28+days");
                self::assertSame($all, array_sum(array_column($table, 'total')), "{$rows->key} by {$columns->key}");
                $this->get("/meter/explore?rows={$rows->key}&columns={$columns->key}&days=last+28+days")->assertOk();
            }
        }
        self::assertSame(['Nov 2026', 'Oct 2026'], array_values(array_intersect(['Nov 2026', 'Oct 2026'], array_keys(
            $this->table('rows=month&columns=team&days=2026-10-25+to+2026-11-19'),
        ))));
        self::assertSame(
            ['from 2 Nov', 'from 9 Nov', 'from 16 Nov'],
            array_keys($this->table('rows=week&columns=team&days=2026-11-02+to+2026-11-19')),
            'weeks begin on Mondays',
        );
    }

    public function test_from_a_cell_to_the_statements_behind_it(): void
    {
        $this->world();
        $this->actingAs($this->person(Role::Viewer));
        $page = (string) $this->get('/meter/explore?rows=team&columns=queue&days=last+14+days')->assertOk()
            ->assertSee('lab has the largest part')
            ->getContent();
        self::assertSame(1, preg_match('~<td\s+class="n cell h\d"><a href="([^"]+)">\s*4.1 KiB~', $page, $found));
        $behind = html_entity_decode($found[1]);
        self::assertStringContainsString('team=pickers', $behind);
        self::assertStringContainsString('queue=slow', $behind);
        $next = (string) $this->get($behind)->assertOk()->assertSee('SELECT ada FROM field')->assertDontSee('SELECT bren')->getContent();
        self::assertMatchesRegularExpression('~href="/tune/statements/[0-9a-f]{32}\?~', $next);
        // A day leads to that day, a week to its days.
        $byDay = (string) $this->get('/meter/explore?rows=team&columns=day')->getContent();
        self::assertStringContainsString('days=2026-11-19', urldecode($byDay));
        self::assertStringContainsString(
            'days=2026-11-09 to 2026-11-15',
            html_entity_decode(urldecode((string) $this->get('/meter/explore?rows=team&columns=week&days=last+14+days')->getContent())),
        );
    }

    public function test_filters_are_offered_chosen_and_left_out(): void
    {
        $this->world();
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/meter/explore?filter=queue&days=last+14+days')
            ->assertOk()
            ->assertSee('queue=slow', false)
            ->assertSee('queue=fast', false);
        $this->get('/meter/explore?queue=fast&days=last+14+days')
            ->assertOk()
            ->assertSee('Leave out the filter queue')
            ->assertSee('280 B')
            ->assertDontSee('>lab<', false);
        $this->get('/meter/explore?queue=gone')->assertOk()->assertSee('No usage matches');
        $this->get('/meter/explore?rows=nothing&columns=neither')->assertOk();
        $this->get('/meter/explore?days=sometime')->assertOk()->assertSee('is no span of days');
    }

    public function test_it_is_taken_away_as_files_of_columns_and_sheets(): void
    {
        $this->world();
        $this->actingAs($this->person(Role::Viewer));
        $query = 'rows=team&columns=queue&days=last+14+days';
        $file = (string) $this->get("/meter/explore/export/parquet?{$query}")->assertOk()->getContent();
        $reader = ParquetReader::open(new StringSource($file));
        self::assertSame(['lab', 'pickers'], $reader->readAll('team'));
        self::assertSame([70_000, 4_200], $reader->readAll('slow'));
        self::assertSame([70_000, 4_480], $reader->readAll('total'));
        self::assertStringStartsWith('PK', $this->get("/meter/explore/export/xlsx?{$query}")->assertOk()->streamedContent());
        self::assertSame(
            "team,slow,fast,total\nlab,70000,0,70000\npickers,4200,280,4480\n",
            $this->get("/meter/explore/export/csv?{$query}")->streamedContent(),
        );
        $this->get("/meter/explore/export/doc?{$query}")->assertNotFound();
    }

    public function test_views_are_kept_by_name_for_everybody_and_removed_by_whoever_kept_them(): void
    {
        $this->world();
        $viewer = $this->person(Role::Viewer);
        $this->actingAs($viewer)
            ->post('/meter/explore/keep', ['name' => 'Queues of a week', 'query' => 'rows=team&columns=queue'])
            ->assertRedirect('/meter/explore?rows=team&columns=queue')
            ->assertSessionHas('done', 'Kept as Queues of a week.');
        $id = (int) DB::table('usage_views')->value('id');
        $this->get('/meter/explore')->assertSee('Queues of a week')->assertSee("/meter/explore/{$id}/forget", false);
        $this->post('/meter/explore/keep', ['name' => '', 'query' => 'rows=team'])->assertSessionHasErrors('name');
        $this->actingAs($this->person(Role::Engineer))
            ->get('/meter/explore')
            ->assertSee('Queues of a week')
            ->assertDontSee("{$id}/forget", false);
        $this->post("/meter/explore/{$id}/forget")->assertForbidden();
        self::assertSame(1, DB::table('usage_views')->count());
        $this->actingAs($viewer)->post("/meter/explore/{$id}/forget")->assertSessionHas('done');
        self::assertSame(0, DB::table('usage_views')->count());
        $this->post("/meter/explore/{$id}/forget")->assertNotFound();
    }

    public function test_programs_read_use_with_a_token_that_may_and_get_what_the_schema_says(): void
    {
        $this->world();
        $cluster = Cluster::query()->where('slug', 'fernhill')->sole();
        $token = $cluster->createToken('reports', ['usage:read'])->plainTextToken;
        $ask = fn (string $query, string $token): TestResponse => $this->withToken($token)->getJson("/api/usage?{$query}");
        $answer = $ask('from=2026-11-06&to=2026-11-19&by=team,queue', $token)->assertOk();
        $result = (new Validator())->validate(
            json_decode((string) $answer->getContent()),
            (string) file_get_contents(base_path('docs/formats/usage.schema.json')),
        );
        self::assertTrue($result->isValid(), (string) $result->error());
        self::assertSame(
            [['lab', 'slow', 14, 70_000], ['pickers', 'fast', 14, 280], ['pickers', 'slow', 14, 4_200]],
            array_map(
                static fn (array $row): array => [$row['team'], $row['queue'], $row['executions'], $row['bytes_scanned']],
                $answer->json('rows'),
            ),
        );
        foreach (UsageAxis::all() as $axis) {
            $result = (new Validator())->validate(
                json_decode((string) $ask('from=2026-11-01&to=2026-11-19&by='.$axis->label(), $token)->assertOk()->getContent()),
                (string) file_get_contents(base_path('docs/formats/usage.schema.json')),
            );
            self::assertTrue($result->isValid(), $axis->label());
        }
        self::assertStringStartsWith('team,executions,', $ask('format=csv', $token)->assertOk()->streamedContent());
        foreach (['from=soon', 'by=team,team', 'by=colour', 'by=team,day,queue,person', 'from=2026-11-09&to=2026-11-01'] as $wrong) {
            $ask($wrong, $token)->assertStatus(422)->assertJsonStructure(['error']);
        }
        $this->app['auth']->forgetGuards();
        $ask('by=team', $cluster->createToken('sender', ['executions:write'])->plainTextToken)->assertForbidden();
        $this->app['auth']->forgetGuards();
        $ask('by=team', 'none')->assertUnauthorized();
        // Of another cluster nothing is told.
        $this->app['auth']->forgetGuards();
        $other = $this->cluster('wren')->createToken('reports', ['usage:read'])->plainTextToken;
        $ask('from=2026-11-01&to=2026-11-19&by=team', $other)->assertOk()->assertJsonPath('rows', []);
    }

    public function test_a_token_is_made_for_one_of_the_two(): void
    {
        $this->cluster();
        $this->actingAs($this->person(Role::Engineer));
        $this->post('/tend/clusters/fernhill/tokens', ['token_name' => 'reports', 'may' => 'usage:read'])->assertSessionHas('token');
        $this->post('/tend/clusters/fernhill/tokens', ['token_name' => 'feed'])->assertSessionHas('token');
        $this->post('/tend/clusters/fernhill/tokens', ['token_name' => 'both', 'may' => '*'])->assertSessionHasErrors('may');
        self::assertSame(
            ['["usage:read"]', '["executions:write"]'],
            DB::table('personal_access_tokens')->orderBy('id')->pluck('abilities')->all(),
        );
        $this->get('/tend/clusters/fernhill')->assertOk()->assertSee('read use');
    }

    public function test_facts_are_written_as_files_a_folder_a_day(): void
    {
        $this->world();
        $folder = sys_get_temp_dir().'/usage-'.bin2hex(random_bytes(4));
        $run = static fn (string $options): int => Artisan::call("usage:export {$folder} {$options}");
        self::assertSame(2, $run('--from=2026-11-10 --to=2026-11-12'));
        self::assertStringContainsString('Make it first', Artisan::output());
        mkdir($folder);
        self::assertSame(0, $run('--from=2026-11-10 --to=2026-11-12 --by=team,queue'), Artisan::output());
        $path = "{$folder}/day=2026-11-11/usage.parquet";
        $reader = ParquetReader::open(new StringSource((string) file_get_contents($path)));
        self::assertSame(['lab', 'pickers', 'pickers'], $reader->readAll('team'));
        self::assertSame([5_000, 20, 300], $reader->readAll('bytes_scanned'));
        self::assertCount(3, (array) glob("{$folder}/day=*"));
        // Once more is the same.
        self::assertSame(0, $run('--from=2026-11-10 --to=2026-11-12 --by=team,queue'));
        $again = ParquetReader::open(new StringSource((string) file_get_contents($path)));
        self::assertSame([5_000, 20, 300], $again->readAll('bytes_scanned'));
        self::assertSame(2, $run('--from=2026-11-10 --to=2026-11-12 --by=colour'));
        self::assertSame(2, $run('--from=2026-11-12 --to=2026-11-10'));
        self::assertSame([], (array) glob("{$folder}/day=*/.usage.part"));
        File::deleteDirectory($folder);
    }

    public function test_executions_longer_than_somebody_types_and_their_share(): void
    {
        Carbon::setTestNow('2026-11-20 14:00:00');
        $this->cluster();
        $random = new Randomizer(new Mt19937(11));
        $records = $longer = $all = [];
        $noon = (int) strtotime('2026-11-20 UTC') + 12 * 3_600;
        foreach (range(1, 600) as $i) {
            $day = $random->getInt(1, 9);
            $user = ['ada', 'bren', 'cleo'][$random->getInt(0, 2)];
            // None so close to ten seconds that the classes of durations could not tell.
            $us = (int) exp($random->getInt(60, 180) / 10);
            $us = abs($us - 10_000_000) < 400_000 ? 1_000_000 : $us;
            $statement = "SELECT {$random->getInt(1, 3)}";
            $records[] = [
                'started_at' => $noon - $day * self::DAY + $i, 'duration_us' => $us, 'sql' => "SELECT x FROM t{$statement[7]}",
                'user' => $user,
            ];
            $at = gmdate('D j M', $noon - $day * self::DAY);
            $all[$user] = ($all[$user] ?? 0) + 1;
            $longer[$user][$at] = ($longer[$user][$at] ?? 0) + ($us > 10_000_000 ? 1 : 0);
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
        Artisan::call('usage:close');
        $this->actingAs($this->person(Role::Viewer));
        $table = $this->table('rows=person&columns=day&days=last+14+days&longer=10+s');
        foreach ($longer as $user => $days) {
            self::assertSame(array_sum($days), $table[$user]['total'], $user);
            foreach (array_filter($days, static fn (int $one): bool => $one > 0) as $at => $count) {
                self::assertSame($count, $table[$user][$at], "{$user} {$at}");
            }
        }
        $sum = array_sum(array_map(array_sum(...), $longer));
        $axes = ['rows=team&columns=week', 'rows=statement&columns=month', 'rows=on&columns=queue', 'rows=day&columns=application'];
        foreach ($axes as $by) {
            self::assertSame($sum, array_sum(array_column($this->table("{$by}&days=last+14+days&longer=10+s"), 'total')), $by);
        }
        self::assertSame(['ada'], array_keys($this->table('rows=person&columns=day&days=last+14+days&longer=10+s&person=ada')));
        $page = $this->get('/meter/explore?rows=person&columns=team&days=last+14+days&longer=10+s')->assertOk()
            ->assertSee("Executions longer than 10 s, 6 to 19 November 2026: {$sum}, ".Quantity::percent($sum / 600).' of all')
            ->assertSee('Of all executions')
            ->assertSee(Quantity::percent(array_sum($longer['ada']) / $all['ada']));
        // It goes along in every address.
        self::assertStringContainsString('longer=10+s', (string) $page->getContent());
        $this->get('/meter/explore?longer=soon')->assertOk()->assertSee('is no duration. Try: 500 ms')
            ->assertDontSee('The last seven days are shown');
        $this->get('/meter/explore?longer=24+h&days=last+14+days')->assertOk()->assertSee('No executions longer than 24 h');
    }

    public function test_hours_are_those_of_the_load(): void
    {
        $this->world();
        $this->actingAs($this->person(Role::Viewer));
        // All of it at noon of each day.
        $table = $this->table('rows=team&columns=daytime&days=last+14+days');
        self::assertSame(['team', '12 to 13 h', 'total'], array_keys($table['lab']));
        self::assertSame(70_000, $table['lab']['12 to 13 h']);
        $table = $this->table('rows=hour&columns=queue&days=2026-11-17+to+2026-11-18');
        self::assertSame(
            [
                ['hour' => 'Tue 17 Nov 12:00', 'slow' => 5_300, 'fast' => 20, 'total' => 5_320],
                ['hour' => 'Wed 18 Nov 12:00', 'slow' => 5_300, 'fast' => 20, 'total' => 5_320],
            ],
            array_values($table),
        );
        $table = $this->table('rows=daytime&columns=person&days=last+14+days&longer=500+us');
        self::assertSame(42, array_sum(array_column($table, 'total')));
        // From an hour to the statements of its day.
        $page = (string) $this->get('/meter/explore?rows=hour&columns=team&days=2026-11-17')->assertOk()->getContent();
        self::assertStringContainsString('rows=statement&amp;columns=team&amp;days=2026-11-17', $page);
        $this->get('/meter/explore?rows=daytime&columns=team&days=2026-11-17')->assertOk();
    }
}
