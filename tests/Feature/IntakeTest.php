<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Platform\Console\TidyCommand;
use App\Platform\Support\Clock;
use App\Telemetry\Models\Import;
use App\Telemetry\Sources\Format;
use App\Telemetry\Store\ExecutionBatch;
use App\Telemetry\Store\Store;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionOutcome;
use Fulcrion\Core\Telemetry\ExecutionTimes;
use Fulcrion\Core\Telemetry\ExecutionWork;
use Illuminate\Cache\FileStore;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Files and records that are not what they should be, and what is left of imports that were killed.
 */
final class IntakeTest extends TestCase
{
    public function test_a_damaged_file_ends_as_failed_keeps_what_was_read_and_can_be_sent_again(): void
    {
        $this->cluster();
        $lines = array_map(
            static fn (int $i): array => [
                'started_at' => gmdate('Y-m-d\TH:i:s\Z', 1_795_200_000 + $i),
                'duration_us' => 10,
                'sql' => 'SELECT '.md5((string) $i),
            ],
            range(1, 2000),
        );
        $packed = (string) gzencode(implode('', array_map(static fn (array $line): string => json_encode($line)."\n", $lines)));
        $cut = $this->file([], 'jsonl.gz');
        file_put_contents($cut, substr($packed, 0, intdiv(strlen($packed), 2)));
        self::assertNotSame(0, Artisan::call('telemetry:import', ['file' => $cut, '--cluster' => 'fernhill']));
        $import = Import::query()->sole();
        self::assertSame('failed', $import->state);
        self::assertStringContainsString('The gzip file is cut off at byte '.intdiv(strlen($packed), 2), (string) $import->error);
        self::assertGreaterThan(500, $import->accepted);
        self::assertSame($import->accepted, $this->executions());
        file_put_contents($cut, $packed);
        self::assertSame(0, Artisan::call('telemetry:import', ['file' => $cut, '--cluster' => 'fernhill']));
        self::assertSame(2000, $this->executions(), 'sent again, nothing counts twice');
        $this->actingAs($this->person())
            ->get("/tune/imports/{$import->id}")
            ->assertOk()
            ->assertSee('is cut off at byte');
    }

    public function test_one_record_never_keeps_the_others_out(): void
    {
        $cluster = $this->cluster();
        $at = 1_795_200_000_000_000;
        $batch = new ExecutionBatch();
        $fingerprinter = new Fingerprinter(Dialect::Ansi);
        for ($i = 0; $i < 41; $i++) {
            // No reader lets such a number through; the store has to hold against what readers miss.
            $batch->add(
                new Execution(
                    $at + $i,
                    5,
                    "SELECT {$i}",
                    work: new ExecutionWork(rowsExamined: $i === 17 || $i === 30 ? PHP_INT_MAX : 1),
                ),
                $fingerprinter->of("SELECT a{$i}_b FROM t"),
            );
        }
        DB::table('load_day')->where('cluster_id', $cluster->id)->delete();
        [$counts, $refused] = app(Store::class)->writeSound($cluster, $batch);
        self::assertSame(41, $counts['taken'] + count($refused));
        self::assertGreaterThanOrEqual(39, $counts['taken']);
        self::assertSame($counts['taken'], $this->executions());
    }

    public function test_a_batch_is_full_when_its_records_are_spread_far(): void
    {
        $fingerprint = (new Fingerprinter(Dialect::Ansi))->of('SELECT 1');
        $spread = new ExecutionBatch();
        $close = new ExecutionBatch();
        for ($i = 0; $i < 9_000; $i++) {
            self::assertFalse($spread->isFull(18_000), "record {$i}");
            $spread->add(
                new Execution(startedAtUs: 1_795_200_000_000_000 + $i * 300_000_000, durationUs: 5, sql: 'SELECT 1'),
                $fingerprint,
            );
            $close->add(new Execution(startedAtUs: 1_795_200_000_000_000 + $i, durationUs: 5, sql: 'SELECT 1'), $fingerprint);
        }
        self::assertTrue($spread->isFull(18_000));
        self::assertFalse($close->isFull(18_000));
    }

    public function test_sums_of_unlike_records_are_all_kept(): void
    {
        // Columns that are nothing in all rows of a statement are not written, so rows of one kind come before and after others.
        $cluster = $this->cluster();
        $fingerprinter = new Fingerprinter(Dialect::Ansi);
        $batch = new ExecutionBatch();
        $at = 1_795_200_000_000_000;
        $batch->add(new Execution(startedAtUs: $at, durationUs: 5, sql: 'SELECT 1'), $fingerprinter->of('SELECT a'));
        $batch->add(new Execution(startedAtUs: $at, durationUs: 0, sql: 'SELECT 2'), $fingerprinter->of('SELECT b'));
        app(Store::class)->write($cluster, $batch);
        $again = new ExecutionBatch();
        $again->add(
            new Execution(
                $at + 1,
                7,
                'SELECT 1',
                outcome: new ExecutionOutcome(warningCount: 2),
                times: new ExecutionTimes(1),
                work: new ExecutionWork(bytesSpilled: 3),
            ),
            $fingerprinter->of('SELECT a'),
        );
        app(Store::class)->write($cluster, $again);
        foreach (['five_minute', 'hour', 'six_hour', 'day', 'week'] as $level) {
            $rows = DB::table("load_{$level}")
                ->orderBy('statement_id')
                ->get(['executions', 'duration_us', 'bytes_spilled', 'warnings', 'lock_us', 'errors', 'min_us', 'max_us'])
                ->map(static fn (object $row): array => array_values((array) $row))
                ->all();
            self::assertSame([[2, 12, 3, 2, 1, 0, 5, 7], [1, 0, 0, 0, 0, 0, 0, 0]], $rows, $level);
        }
    }

    public function test_bodies_with_absurd_records_are_answered_record_by_record(): void
    {
        $cluster = $this->cluster();
        $token = $cluster->createToken('t', ['executions:write'])->plainTextToken;
        $record = static fn (array $more): string => (string) json_encode(
            $more + ['started_at' => '2026-11-20T06:00:00Z', 'duration_us' => 5, 'sql' => 'SELECT 1'],
        );
        $lines = [
            $record(['rows_examined' => 9_000_000_000_000_000_000]),
            $record(['rows_examined' => '9999999999999999999']),
            '{"started_at":"2026-11-20T06:00:00Z","duration_us":1e999,"sql":"SELECT 1"}',
            $record(['duration_us' => 31 * 86_400_000_000]),
            $record(['sql' => str_repeat('(', 50_000).'1']),
            str_repeat('[', 3000).str_repeat(']', 3000),
            "{\"started_at\":\"2026-11-20T06:00:01Z\",\"duration_us\":5,\"sql\":\"SELECT '\xff\xfe'\"}",
            $record(['sql' => ['a']]),
            $record(['user' => ['a']]),
            $record(['warnings' => 99_999_999_999]),
            '',
            'null',
            '5',
            '"x"',
            $record(['binds' => [[1]]]),
            $record(['sql' => 'SELECT '.str_repeat('1,', 400_000).'1', 'started_at' => '2026-11-20T06:00:02Z']),
        ];
        $answer = $this->call(
            'POST',
            '/api/executions',
            [],
            [],
            [],
            ['HTTP_AUTHORIZATION' => "Bearer {$token}", 'CONTENT_TYPE' => 'application/x-ndjson'],
            implode("\n", $lines),
        );
        $answer->assertOk();
        $counts = $answer->json();
        self::assertSame(
            count(array_filter($lines, static fn (string $line): bool => $line !== '')),
            $counts['taken'] + $counts['repeated'] + $counts['set_aside'],
        );
        self::assertGreaterThanOrEqual(5, $counts['taken']);
        foreach (["\x1f\x8b", "\x1f\x8b\x08\x00", substr((string) gzencode($lines[0]), 0, 20)] as $body) {
            $this->call('POST', '/api/executions', [], [], [], ['HTTP_AUTHORIZATION' => "Bearer {$token}"], $body)->assertStatus(400);
        }
    }

    public function test_killed_imports_are_taken_up_once_and_then_end(): void
    {
        $cluster = $this->cluster();
        $path = $this->file([['started_at' => '2026-11-20T06:00:00Z', 'duration_us' => 5, 'sql' => 'SELECT 1']]);
        $silent = [
            'cluster_id' => $cluster->id,
            'file_name' => 'x.jsonl',
            'format' => Format::JsonLines,
            'state' => 'running',
            'started_at' => Clock::now()->subHour(),
            'heartbeat_us' => Clock::microseconds() - 600_000_000,
        ];
        $one = Import::query()->create($silent + ['path' => $path]);
        $gone = Import::query()->create($silent + ['path' => '/nowhere/x.jsonl']);
        $alive = Import::query()->create(['heartbeat_us' => Clock::microseconds()] + $silent + ['path' => $path]);
        Artisan::call('platform:recover');
        self::assertSame(['done', 'failed', 'running'], [$one->refresh()->state, $gone->refresh()->state, $alive->refresh()->state]);
        self::assertSame(1, $this->executions());
        $one->forceFill([
            'state' => 'running',
            'error' => 'Its process was killed, and it was begun again.',
            'heartbeat_us' => Clock::microseconds() - 600_000_000,
        ])->save();
        Artisan::call('platform:recover');
        self::assertSame('failed', $one->refresh()->state);
        self::assertStringContainsString('killed twice', (string) $one->error);
    }

    public function test_what_was_kept_long_enough_is_forgotten(): void
    {
        $cluster = $this->cluster();
        $import = static fn (string $state, int $days): Import => Import::query()->forceCreate([
            'cluster_id' => $cluster->id,
            'file_name' => 'x',
            'format' => Format::JsonLines,
            'state' => $state,
            'created_at' => Clock::now()->subDays($days),
        ]);
        [$old, $young, $waiting] = [
            $import('done', TidyCommand::IMPORT_DAYS + 1),
            $import('done', TidyCommand::IMPORT_DAYS - 1),
            $import('waiting', TidyCommand::IMPORT_DAYS + 1),
        ];
        DB::table('rejected_records')->insert(['import_id' => $old->id, 'line' => 1, 'field' => 'x', 'reason' => 'y', 'sealed' => 'z']);
        is_dir(storage_path('app/uploads')) || mkdir(storage_path('app/uploads'), 0o700, true);
        [$stale, $fresh] = [storage_path('app/uploads/stale'), storage_path('app/uploads/fresh')];
        touch($stale, Clock::seconds() - (TidyCommand::UPLOAD_DAYS * 86_400 + 60));
        touch($fresh);
        $log = storage_path('logs/turned.log');
        file_put_contents($log, str_repeat("a line of a log\n", intdiv(TidyCommand::LOG_BYTES, 16) + 1));
        Cache::store('file')->put('to be forgotten', 1, 60);
        Cache::store('file')->put('to be kept', 1, 600);
        $store = Cache::store('file')->getStore();
        self::assertInstanceOf(FileStore::class, $store);
        [$gone, $kept] = [$store->path('to be forgotten'), $store->path('to be kept')];
        self::assertFileExists($gone);
        $this->travel(120)->seconds();
        Artisan::call('platform:tidy');
        self::assertSame([false, true], [is_file($gone), is_file($kept)]);
        self::assertSame([$young->id, $waiting->id], Import::query()->orderBy('created_at', 'desc')->pluck('id')->all());
        self::assertSame(0, DB::table('rejected_records')->count());
        self::assertSame([false, true, 0], [is_file($stale), is_file($fresh), strlen((string) file_get_contents($log))]);
        self::assertSame('0640', substr(sprintf('%o', fileperms("{$log}.1.gz")), -4));
        array_map(unlink(...), [$fresh, $log, "{$log}.1.gz"]);
    }

    #[Group('today')]
    public function test_lists_where_pages_take_one_value_are_refused(): void
    {
        $this->cluster();
        $this->actingAs($this->person());
        foreach (
            [
                '/tune/statements',
                '/tune/compare',
                '/tune/plans',
                '/tune/catalog',
                '/tune/layout',
                '/tune/jobs',
                '/tune/workbench',
                '/tune/imports',
                '/guard',
                '/guard/decisions',
                '/ledger',
                '/ledger/changes',
                '/tend/clusters',
                '/',
            ] as $page
        ) {
            foreach (['cluster', 'words', 'sort'] as $name) {
                $this->get("{$page}?{$name}[]=1")->assertStatus(400);
            }
            $this->get("{$page}?with[][a]=1")->assertStatus(400);
        }
        $this->get('/tune/statements?with[]=full_scan')->assertOk();
    }
}
