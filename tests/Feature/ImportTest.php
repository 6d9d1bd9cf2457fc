<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Platform\Support\Role;
use App\Telemetry\Intake\ImportRunner;
use App\Telemetry\Models\Import;
use App\Telemetry\Sources\Format;
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Text\Parts;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

final class ImportTest extends TestCase
{
    public function test_every_level_says_the_same_and_what_the_file_says(): void
    {
        $this->cluster();
        $records = $this->records(500);
        $this->import($this->file($records));
        foreach (['load_five_minute', 'load_hour', 'load_six_hour', 'load_day', 'load_week'] as $table) {
            $sums = DB::table($table)
                ->selectRaw(
                    'SUM(executions) AS n, SUM(duration_us) AS d, SUM(load_us) AS l, SUM(rows_examined) AS r, MIN(min_us) AS low, '
                        .'MAX(max_us) AS high',
                )
                ->first();
            self::assertEquals(
                [
                    500,
                    array_sum(array_column($records, 'duration_us')),
                    array_sum(array_column($records, 'duration_us')),
                    array_sum(array_column($records, 'rows_examined')),
                    min(array_column($records, 'duration_us')),
                    max(array_column($records, 'duration_us')),
                ],
                [$sums->n, $sums->d, $sums->l, $sums->r, $sums->low, $sums->high],
                $table,
            );
            self::assertSame(
                LatencySketch::of(array_column($records, 'duration_us'))->toBinary(),
                LatencySketch::fromBinary(DB::table($table)->pluck('sketch')->implode(''))->toBinary(),
                $table,
            );
        }
        self::assertEquals(array_sum(array_column($records, 'duration_us')), DB::table('load_by_origin_hour')->sum('load_us'));
        self::assertSame(3, DB::table('statements')->count());
    }

    public function test_the_same_file_twice_changes_nothing_and_twins_in_it_both_count(): void
    {
        $this->cluster();
        $records = $this->records(60);
        $records[] = $records[0];
        $file = $this->file($records);
        $first = $this->import($file);
        $before = DB::table('load_five_minute')->orderBy('bucket_at')->orderBy('statement_id')->orderBy('origin_id')->get()->toArray();
        $second = $this->import($file);
        self::assertSame([61, 0, 0, 61], [$first->accepted, $first->repeated, $second->accepted, $second->repeated]);
        self::assertEquals(
            $before,
            DB::table('load_five_minute')->orderBy('bucket_at')->orderBy('statement_id')->orderBy('origin_id')->get()->toArray(),
        );
        $third = $this->import(
            $this->file([...$records, ['started_at' => '2026-11-20T09:00:00Z', 'duration_us' => 5, 'sql' => 'SELECT 9']]),
        );
        self::assertSame([1, 61], [$third->accepted, $third->repeated]);
    }

    #[Group('today')]
    public function test_killed_in_the_middle_and_run_again_counts_everything_once(): void
    {
        $this->cluster();
        $file = $this->file($this->records(90_000));
        $command = [PHP_BINARY, base_path('artisan'), 'telemetry:import', $file, '--cluster=fernhill'];
        $environment =
            ['DB_DATABASE' => 'fulcrion_test', 'DB_USERNAME' => 'fulcrion_test', 'DB_PASSWORD' => (string) getenv('DB_PASSWORD')] +
            getenv();
        $quiet = [['file', '/dev/null', 'r'], ['file', '/dev/null', 'w'], ['file', '/dev/null', 'w']];
        $process = proc_open($command, $quiet, $pipes, base_path(), $environment);
        self::assertIsResource($process);
        for ($i = 0; $i < 400 && $this->executions() === 0; $i++) {
            usleep(50_000);
        }
        proc_terminate($process, SIGKILL);
        proc_close($process);
        $half = $this->executions();
        self::assertGreaterThan(0, $half);
        self::assertLessThan(90_000, $half);
        self::assertSame($half, (int) Import::query()->firstOrFail()->accepted, 'progress and data agree');
        $again = $this->import($file);
        self::assertSame([90_000 - $half, $half], [$again->accepted, $again->repeated]);
        self::assertSame(90_000, $this->executions());
        self::assertEquals(90_000, DB::table('load_five_minute')->sum('executions'));
    }

    public function test_bad_records_are_set_aside_fixed_and_taken(): void
    {
        $this->cluster();
        $good = $this->records(3);
        $import = $this->import(
            $this->file([$good[0], '{"broken', ['started_at' => 'soon'] + $good[1], ['cluster' => 'elsewhere'] + $good[1], '', $good[2]]),
        );
        self::assertSame(['done', 2, 3], [$import->state, $import->accepted, $import->rejected]);
        $rows = DB::table('rejected_records')->orderBy('line')->get();
        self::assertSame(
            [[2, '(line)'], [3, 'started_at'], [4, 'cluster']],
            $rows->map(static fn (object $row): array => [$row->line, $row->field])->all(),
        );
        self::assertStringNotContainsString('broken', $rows[0]->sealed);
        $this->actingAs($this->person(Role::Viewer))
            ->get("/tune/imports/{$import->id}/rejected")
            ->assertForbidden();
        $taken = $this->actingAs($this->person(Role::Engineer))
            ->get("/tune/imports/{$import->id}/rejected")
            ->streamedContent();
        self::assertSame(3, substr_count($taken, "\n"));
        $fixed = str_replace(['soon', 'elsewhere', '{"broken'], ['2026-11-20T06:00:09Z', 'fernhill', ''], $taken);
        self::assertSame(2, $this->import($this->file(Parts::between($fixed, "\n")))->accepted);
    }

    public function test_an_upload_with_foreign_columns_is_asked_about_once(): void
    {
        $this->cluster();
        $csv = "began;elapsed_ms;query_text;who\n2026-11-20 06:00:00;1.5;\"SELECT a;\nb\";ada\n2026-11-20 06:00:01;2;SELECT 2;bo\n";
        $this->actingAs($this->person(Role::Engineer));
        $upload = fn (string $text) => $this->post('/tune/imports', [
            'cluster' => 'fernhill',
            'file' => UploadedFile::fake()->createWithContent('runs.csv', $text),
        ]);
        $to = (string) $upload($csv)->assertRedirect()->headers->get('Location');
        self::assertStringEndsWith('/columns', $to);
        $this->get($to)->assertOk()->assertSee('elapsed_ms');
        $this->post($to, ['column' => ['sql' => 'query_text']])->assertSessionHas('failed');
        $this->post($to, [
            'column' => ['started_at' => 'began', 'duration_us' => 'elapsed_ms', 'sql' => 'query_text', 'user' => 'who'],
            'unit' => ['duration_us' => 'ms'],
        ])->assertRedirect();
        self::assertSame(2, $this->executions());
        self::assertEquals(3_500, DB::table('load_day')->sum('duration_us'));
        $upload(str_replace('06:00', '07:00', $csv))->assertRedirect();
        self::assertSame(4, $this->executions());
        $this->post('/tune/imports', [
            'cluster' => 'fernhill',
            'file' => UploadedFile::fake()->createWithContent('nothing.csv', ''),
        ])->assertSessionHasErrors('file');
        $record = json_encode(['started_at' => '2026-11-20T08:00:00Z', 'duration_us' => 1, 'sql' => 'x']);
        $upload((string) gzencode("{$record}\n"))->assertRedirect();
        self::assertSame(5, $this->executions());
    }

    public function test_an_import_stops_when_asked_and_keeps_what_it_took(): void
    {
        $cluster = $this->cluster();
        config(['fulcrion.import.batch' => 10]);
        $import = $this->waiting($this->file($this->records(100)), $cluster->id);
        app(ImportRunner::class)->run($import, static function (): void {
            DB::table('imports')->update(['stop_asked' => true]);
        });
        self::assertSame(['stopped', 10], [$import->state, $import->accepted]);
        self::assertSame(10, $this->executions());
    }

    public function test_bad_days_of_a_file(): void
    {
        $this->cluster();
        $long = 'SELECT '.implode(', ', array_map(static fn (int $i): string => "column_{$i}", range(1, 16_000)));
        self::assertGreaterThan(200_000, strlen($long));
        $records = [['started_at' => '2026-11-20T06:00:00Z', 'duration_us' => 3, 'sql' => $long]];
        for ($i = 0; $i < 5_000; $i++) {
            $records[] = ['started_at' => '2026-11-20T06:00:01Z', 'duration_us' => 3, 'sql' => "SELECT a_{$i}_b FROM t"];
        }
        $records[] = str_replace(
            'CAFE',
            "caf\xe9",
            (string) json_encode(['started_at' => '2026-11-20T06:00:02Z', 'duration_us' => 3, 'sql' => 'SELECT CAFE', 'user' => 'CAFE']),
        );
        $import = $this->import($this->file($records));
        self::assertSame([5_002, 0], [$import->accepted, $import->rejected]);
        $this->actingAs($this->person())
            ->get('/tune/statements?window=2026-11-20')
            ->assertOk()
            ->assertSee('5'."\u{202F}".'002');
        $fingerprint = DB::table('statements')->orderByRaw('LENGTH(text) DESC')->value('fingerprint');
        $this->get("/tune/statements/{$fingerprint}?window=2026-11-20")
            ->assertOk()
            ->assertSee('more bytes');
        self::assertSame(0, $this->import($this->file([]))->accepted);
        self::assertSame(2, Artisan::call('telemetry:import', ['file' => '/nowhere.jsonl', '--cluster' => 'fernhill']), Artisan::output());
        self::assertSame(2, Artisan::call('telemetry:import', ['file' => __FILE__, '--cluster' => 'nobody']), Artisan::output());
    }

    /**
     * @return list<array<string, mixed>>
     */
    private function records(int $count): array
    {
        $records = [];
        for ($i = 0; $i < $count; $i++) {
            $second = intdiv($i * 7, 10);
            $records[] = [
                'started_at' => gmdate('Y-m-d\TH:i:s', 1_795_154_400 + ($second % 80_000)).sprintf('.%06dZ', $i),
                'duration_us' => 100 + (($i * 37) % 90_000),
                'sql' => "SELECT a{$this->letter($i)} FROM t WHERE b = {$i}",
                'user' => ['ada', 'bo'][$i % 2],
                'rows_examined' => $i,
            ];
        }

        return $records;
    }

    private function letter(int $i): string
    {
        return ['x', 'y', 'z'][$i % 3];
    }

    private function import(string $file): Import
    {
        self::assertSame(0, Artisan::call('telemetry:import', ['file' => $file, '--cluster' => 'fernhill']), Artisan::output());

        $import = Import::query()->orderByDesc('id')->first();
        self::assertInstanceOf(Import::class, $import);

        return $import;
    }

    private function waiting(string $file, int $clusterId): Import
    {
        $import = new Import();
        $import
            ->forceFill([
                'cluster_id' => $clusterId,
                'file_name' => 'x',
                'path' => $file,
                'format' => Format::JsonLines,
                'state' => 'waiting',
                'accepted' => 0,
                'repeated' => 0,
                'rejected' => 0,
            ])
            ->save();

        return $import;
    }
}
