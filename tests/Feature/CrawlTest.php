<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Access\Application\PolicyStore;
use App\Access\Application\Publisher;
use App\Access\Models\DecisionRecord;
use App\Estate\Connectors\Connectors;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\Changes;
use App\Ledger\Models\Change;
use App\Ledger\Models\ProofRecord;
use App\Platform\Models\User;
use App\Platform\Support\Role;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Routing\Route;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Route as Routes;
use Illuminate\Support\Str;
use PHPUnit\Framework\Attributes\Group;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpFoundation\StreamedResponse;
use Tests\TestCase;
use ZipArchive;

/**
 * A closed table on a cluster on which everything there is has been done: searched, explained, audited, laid out anew,
 * rehearsed, copied, renamed, prepared, proven. Then every page and export is read by people who may not see its values.
 */
#[Group('today')]
final class CrawlTest extends TestCase
{
    private const ROWS = 400;

    /** @var list<string> values nobody below may find */
    private array $closed = [];

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-20 10:02:00');
        $root = sys_get_temp_dir().'/fulcrion-crawl-'.bin2hex(random_bytes(4));
        config(['fulcrion.practice' => $root, 'queue.default' => 'sync']);
        mkdir($root);
        $this->cluster()->update(['connector' => 'practice']);
        Cluster::query()->create([
            'slug' => 'wren',
            'name' => 'Wren',
            'role' => 'rehearsal',
            'connector' => 'practice',
            'dialect' => Dialect::Ansi,
        ]);
        Warehouse::create(PracticeClusters::root('fernhill'), 'Fernhill', 2, new HardwareProfile(rowFactor: 10_000, chunkOpenUs: 8000));
        Warehouse::create(PracticeClusters::root('wren'), 'Wren', 2, new HardwareProfile(rowFactor: 10_000));
        $this->fill();
        $this->policy();
    }

    protected function tearDown(): void
    {
        exec('rm -rf '.escapeshellarg((string) config('fulcrion.practice')));
        Carbon::setTestNow();
        parent::tearDown();
    }

    private function fill(): void
    {
        $random = new Randomizer(new Mt19937(3));
        $token = static fn (): string => implode('', array_map(static fn (): string => chr(97 + $random->getInt(0, 25)), range(1, 9)));
        $lines = [];
        for ($id = 1; $id <= self::ROWS; $id++) {
            [$name, $phone, $wage] = [
                "Nm {$token()}",
                '0'.$random->getInt(100_000_000, 999_999_999),
                3_000_000 + $random->getInt(0, 999_999),
            ];
            array_push($this->closed, substr($name, 3), $phone, (string) $wage);
            $lines[] =
                "({$id}, '{$name}', '{$phone}', {$wage}, '".
                ['north', 'south', 'east'][$id % 3].
                "', TIMESTAMP '2026-11-0".
                (($id % 9) + 1).
                " 06:00:00')";
        }
        $this->sql('CREATE SCHEMA people');
        $this->sql('CREATE SCHEMA open');
        // Placed by three values, in small chunks of no order, partitioned by name: every house rule has something to say.
        $this->sql(
            'CREATE TABLE people.crew (id bigint, name text, phone text, wage bigint, region text, since timestamp) PLACED BY (region) '
                .'CUT BY VALUE OF phone CHUNKS OF 16 ROWS',
        );
        foreach (array_chunk($lines, 100) as $some) {
            $this->sql('INSERT INTO people.crew VALUES '.implode(', ', $some));
        }
        $this->sql('CREATE VIEW people.list AS SELECT id, name, phone FROM people.crew');
        $this->sql('CREATE TABLE open.region (region text, title text)');
        $this->sql("INSERT INTO open.region VALUES ('north', 'North'), ('south', 'South')");
    }

    private function policy(): void
    {
        $label = static fn (string $column, string $key): array => [
            'on' => "fernhill.people.crew.{$column}",
            'key' => $key,
            'value' => 'direct',
        ];
        $document = Document::read([
            'people' => ['engineer' => ['roles' => ['crew']], 'viewer' => ['roles' => ['guest']]],
            'roles' => ['crew' => [], 'guest' => [], 'keepers' => []],
            'owners' => ['estate' => ['owner' => 'role:keepers']],
            'grants' => [
                'crew' => [
                    'effect' => 'allow',
                    'privileges' => ['use', 'select', 'create', 'insert'],
                    'on' => 'estate',
                    'to' => ['role:crew'],
                ],
                'guests' => ['effect' => 'allow', 'privileges' => ['use', 'select'], 'on' => 'fernhill.open', 'to' => ['role:guest']],
                'directory' => [
                    'effect' => 'allow',
                    'privileges' => ['use', 'select'],
                    'on' => 'fernhill.people.list',
                    'to' => ['role:guest'],
                ],
            ],
            'labels' => ['n' => $label('name', 'personal'), 'p' => $label('phone', 'personal/phone'), 'w' => $label('wage', 'pay')],
            'masks' => ['gone' => ['shows' => 'nothing']],
            'rules' => [
                'names' => [
                    'scope' => 'estate',
                    'for' => ['everyone'],
                    'when' => "labelled_below('personal')",
                    'effect' => 'mask',
                    'mask' => 'gone',
                ],
                'pay' => ['scope' => 'estate', 'for' => ['everyone'], 'when' => "labelled('pay')", 'effect' => 'hide'],
            ],
            'products' => [
                'list' => [
                    'title' => 'List',
                    'purpose' => 'Know who works here',
                    'owner' => 'role:keepers',
                    'audience' => ['guest', 'crew'],
                    'views' => ['fernhill.people.list'],
                    'published' => true,
                ],
            ],
        ]);
        self::assertInstanceOf(Document::class, $document);
        app(Publisher::class)->seed($document, 'first');
        app(PolicyStore::class)->forget();
    }

    private function sql(string $sql): void
    {
        app(Connectors::class)
            ->keeper(Cluster::query()->where('slug', 'fernhill')->firstOrFail())
            ?->apply($sql, static fn (): bool => false);
    }

    private function ask(string $sql, string $mode = 'run', string $schema = 'people'): string
    {
        return (string) $this->post('/tune/workbench/runs', [
            'cluster' => 'fernhill',
            'schema' => $schema,
            'sql' => $sql,
            'mode' => $mode,
            'key' => (string) Str::uuid(),
            'which' => 'one',
        ])->getContent();
    }

    /** Everything that leaves traces, done by an owner, who may see all of it. */
    private function use(User $owner): void
    {
        [$name, $phone, $wage] = [$this->closed[0], $this->closed[1], $this->closed[2]];
        $records = [];
        for ($i = 0; $i < 40; $i++) {
            foreach (
                [
                    "SELECT region, sum(wage) FROM people.crew WHERE since >= timestamp '2026-11-03 00:00:00' GROUP BY region",
                    "SELECT id FROM people.crew WHERE phone = '{$phone}' AND wage = {$wage}",
                    "SELECT count(*) FROM people.crew WHERE upper(name) = 'NM {$name}'",
                    'SELECT CAST(name AS bigint) FROM people.crew',
                ] as $n => $sql
            ) {
                $records[] =
                    [
                        'started_at' => sprintf('2026-11-19T08:%02d:%02dZ', $i, $n),
                        'duration_us' => 90_000 + $i,
                        'sql' => $sql,
                        'database' => 'people',
                        'user' => 'crew',
                        'bytes_scanned' => 1_000_000,
                    ] + ($n === 1 ? ['status' => 'error', 'error' => "Duplicate entry '{$phone}' for key 'phone'"] : []);
            }
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
        $this->actingAs($owner);
        self::assertStringContainsString($phone, $this->ask('SELECT * FROM crew ORDER BY id LIMIT 3'), 'an owner sees all of it');
        foreach (
            [
                "SELECT name FROM crew WHERE phone = '{$phone}'",
                'SELECT CAST(name AS bigint) FROM crew',
                "SELECT id FROM crew WHERE wage = {$wage}",
            ] as $sql
        ) {
            $this->ask($sql);
            $this->ask($sql, 'actual');
            $this->ask($sql, 'explain');
        }
        $this->sql('ANALYZE TABLE people.crew');
        Artisan::call('storage:audit', ['cluster' => 'fernhill']);
        $this->post('/tune/layout-propose/fernhill/people.crew', ['kind' => 'distribution']);
        $change = Change::query()->first() ?? self::fail('nothing was proposed: '.session('failed'));
        $workload = static fn (string $without): string => (string) json_encode(
            DB::table('statements')
                ->where('text', 'like', '%people.crew%')
                ->where('text', 'not like', $without)
                ->pluck('fingerprint')
                ->map(static fn (string $id): array => ['id' => $id, 'executions' => 40])
                ->all(),
        );
        // Once with a statement that fails on a value, so that there is a proof with an error; then without it.
        DB::table('changes')
            ->where('id', $change->id)
            ->update(['workload' => $workload('nothing')]);
        app(Changes::class)->rehearse($change->refresh(), $owner);
        self::assertFalse($change->refresh()->latestProof('rehearsal')?->holds);
        DB::table('changes')
            ->where('id', $change->id)
            ->update(['workload' => $workload('%CAST%')]);
        $changes = app(Changes::class);
        $changes->rehearse($change->refresh(), $owner);
        $changes->approve($change->refresh(), $owner);
        $changes->apply($change->refresh(), $owner);
        self::assertSame('applied', $change->refresh()->state->value, (string) $change->error);
        self::assertGreaterThan(1, ProofRecord::query()->count());
        foreach (
            [
                'CREATE TABLE open.pay AS SELECT id, wage AS amount FROM people.crew',
                "CREATE TABLE open.words AS SELECT region, concat(name, '/', phone) AS words FROM people.crew",
                'CREATE TABLE open.busy AS SELECT id FROM people.crew WHERE wage > 3500000',
                'CREATE VIEW open.book AS SELECT name FROM people.crew',
                'CREATE TABLE people.old AS SELECT * FROM people.crew',
                'RENAME TABLE people.old TO older',
                'CREATE ROLLUP people.sums AS SELECT region, name, sum(wage) FROM people.crew GROUP BY region, name',
                'CREATE LOOKUP people.by_id WITH (key = id) AS SELECT id, name, phone FROM people.crew',
            ] as $sql
        ) {
            self::assertStringNotContainsString('Not run', $this->ask($sql), $sql);
        }
        $this->post('/tune/encodings', ['table' => 'fernhill:people.crew']);
        $this->post('/tune/tuning', ['cluster' => 'fernhill', 'which' => 'worst', 'minutes' => 1, 'gib' => 1, 'title' => 'all']);
        $this->post('/tune/layout-maintenance/fernhill/people.crew', [
            'acts' => ['compact', 'statistics'],
            'when' => 'needed',
            'cron' => '',
            'small' => '0.1',
            'depth' => '2',
            'changed' => '0.1',
            'expire_days' => 7,
            'keep' => 2,
            'hours_from' => 0,
            'hours_to' => 24,
        ]);
        $this->post('/tune/maintenance/'.((int) DB::table('maintenance_plans')->value('id')).'/run');
        $this->get('/guard/try?who=engineer,viewer&cluster=fernhill&sql='.rawurlencode('SELECT * FROM people.crew'));
        $this->get('/guard/labels');
        Artisan::call('access:audit');
        Artisan::call('storage:audit', ['cluster' => 'fernhill']);
        Artisan::call('ledger:post');
    }

    /** What an archive holds, where it is one: a spreadsheet shows nothing as it lies. */
    private static function unpacked(string $content): string
    {
        if (! str_starts_with($content, 'PK')) {
            return $content;
        }
        $path = (string) tempnam(sys_get_temp_dir(), 'crawl');
        file_put_contents($path, $content);
        $archive = new ZipArchive();
        self::assertTrue($archive->open($path));
        $inside = '';
        for ($i = 0; $i < $archive->numFiles; $i++) {
            $inside .= $archive->getFromIndex($i)."\n";
        }
        $archive->close();
        unlink($path);

        return $inside;
    }

    public function test_no_page_shows_a_value_its_reader_may_not_see(): void
    {
        $owner = $this->person(Role::Owner);
        $this->use($owner);
        $engineer = $this->person(Role::Engineer);
        $this->attack($engineer);
        $read = $hits = [];
        foreach ([$this->person(Role::Viewer), $engineer] as $person) {
            foreach ($this->addresses() as $address) {
                $this->app['auth']->forgetGuards();
                $response = $this->actingAs($person)->get($address);
                self::assertLessThan(500, $response->getStatusCode(), "{$person->name} {$address}");
                $base = $response->baseResponse;
                $content =
                    $base instanceof StreamedResponse
                        ? $response->streamedContent()
                        : ($base instanceof BinaryFileResponse
                            ? (string) file_get_contents($base->getFile()->getPathname())
                            : (string) $response->getContent());
                if ($response->getStatusCode() === 200) {
                    $read[$person->name][] = $address;
                }
                $content = self::withoutNumbersOfRuns(self::unpacked($content));
                foreach (array_diff($this->closed, $person->is($engineer) ? $this->written() : []) as $value) {
                    if (stripos($content, $value) !== false) {
                        $hits[] =
                            "{$person->name} finds {$value} at {$address}: ".
                            preg_replace('~\s+~', ' ', substr($content, max(0, stripos($content, $value) - 120), 200));
                        break;
                    }
                }
            }
        }
        self::assertSame([], array_slice($hits, 0, 5), count($hits).' pages');
        self::assertGreaterThan(90, count($read['Viewer']), 'most pages are there to be read');
        self::assertGreaterThan(110, count($read['Engineer']));
    }

    /** Runs, digests and marks of styles are numbered by chance, and one in some ten thousand has the digits of a wage in its number. */
    private static function withoutNumbersOfRuns(string $content): string
    {
        // So do the seconds and heights a figure is drawn from.
        $content = (string) preg_replace_callback(
            '~data-plot="[^"]*"~',
            static fn (array $plot): string => (string) preg_replace('~\b\d{10}\b|\b\d+\.\d+\b~', '0', $plot[0]),
            $content,
        );

        return (string) preg_replace('~[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}|\b(?:[0-9a-f]{64}|[0-9a-f]{32})\b~i', 'a run', $content);
    }

    /**
     * What the engineer has guessed and written down, which is theirs to see again: a name, a phone, a wage.
     *
     * @return array{string, string, string}
     */
    private function written(): array
    {
        return [$this->closed[3], $this->closed[4], $this->closed[5]];
    }

    /** What an engineer might try, each answer looked at at once. */
    private function attack(User $engineer): void
    {
        $this->actingAs($engineer);
        [$name, $phone, $wage] = $this->written();
        $said = [];
        $statements = [
            'SELECT * FROM people.crew',
            'SELECT phone FROM people.crew',
            'SELECT CAST(name AS bigint) FROM people.crew',
            "SELECT id FROM people.crew WHERE wage = {$wage}",
            'SELECT amount FROM open.pay',
            'SELECT words FROM open.words',
            'SELECT * FROM open.words',
            'SELECT * FROM open.busy',
            'SELECT name FROM open.book',
            'SELECT * FROM people.older',
            'SELECT name FROM people.older',
            'SELECT * FROM people.list',
            'SELECT x.b FROM people.crew AS x (a, b, c, d, e, f)',
            'SELECT * FROM people.crew__kept_'.((int) Change::query()->value('id')),
            'CREATE TABLE open.mine AS SELECT * FROM people.crew',
            'SELECT * FROM open.mine',
            'CREATE ROLLUP open.r AS SELECT name, count(*) FROM people.crew GROUP BY name',
            'CREATE LOOKUP open.l WITH (key = phone) AS SELECT phone FROM people.crew',
            'CREATE OR REPLACE TABLE people.crew AS SELECT 1 AS id',
            "SELECT count(*) FROM people.crew WHERE phone = '{$phone}'",
            'SELECT max(name), min(phone) FROM people.crew',
            'RENAME TABLE people.crew TO mine',
            'UPDATE people.crew SET region = name',
            'SELECT region FROM people.crew GROUP BY region HAVING max(wage) > 0',
            "SELECT name FROM people.crew FOR SYSTEM_TIME AS OF TIMESTAMP '2026-11-20 10:00:00'",
        ];
        foreach ($statements as $sql) {
            foreach (['run', 'actual', 'explain'] as $mode) {
                $said["{$mode} {$sql}"] = $this->ask($sql, $mode);
            }
        }
        foreach (DB::table('statements')->pluck('fingerprint') as $fingerprint) {
            foreach (['explain', 'actual'] as $mode) {
                $said["plan of {$fingerprint} {$mode}"] = (string) $this->followingRedirects()
                    ->post("/tune/statements/{$fingerprint}/plan", ['cluster' => 'fernhill', 'mode' => $mode])
                    ->getContent();
            }
        }
        foreach (['SELECT id FROM people.crew WHERE name LIKE \'N%\'', 'SELECT id FROM people.crew WHERE wage > 5'] as $sql) {
            $said["rewrites of {$sql}"] = (string) $this->followingRedirects()
                ->post('/tune/rewrites', ['cluster' => 'fernhill', 'schema' => 'people', 'sql' => $sql])
                ->getContent();
        }
        foreach ($said as $what => $content) {
            $content = self::withoutNumbersOfRuns($content);
            foreach ($this->closed as $value) {
                // What somebody has written is theirs to see again.
                if (
                    ! str_contains($what, $value) &&
                    stripos((string) preg_replace('~<textarea.*?</textarea>~s', '', $content), $value) !== false
                ) {
                    self::fail("{$what} showed {$value}: ".substr($content, max(0, (int) stripos($content, $value) - 200), 300));
                }
            }
        }
        self::assertStringContainsString('Access is refused', $said["run SELECT id FROM people.crew WHERE wage = {$wage}"]);
        self::assertStringContainsString(
            'There is no table',
            $said['run SELECT * FROM people.crew__kept_'.((int) Change::query()->value('id'))],
        );
        self::assertStringContainsString(
            'A value is no whole number',
            $said['run SELECT CAST(name AS bigint) FROM people.crew'],
            'the error tells what, and of nobody',
        );
        foreach (
            DecisionRecord::query()->whereNotNull('sealed_error')->where('subject', 'person:engineer')->pluck('sealed_error') as $sealed
        ) {
            self::assertStringNotContainsString($name, (string) $sealed, 'masked values fail for who sees masks, not those behind them');
        }
    }

    /**
     * Every page there is, with the numbers of what has been made.
     *
     * @return list<string>
     */
    private function addresses(): array
    {
        // The first were made by the owner, the last by who attacks.
        $ids = static function (string $table, string $column = 'id'): array {
            $all = array_map(
                strval(...),
                DB::table($table)
                    ->orderBy($table === 'workbench_runs' ? 'id' : $column)
                    ->pluck($column)
                    ->all(),
            );

            return array_unique([...array_slice($all, 0, 4), ...array_slice($all, -3)]);
        };
        $tables = [
            'people.crew',
            'people.older',
            'people.list',
            'open.pay',
            'open.words',
            'open.busy',
            'open.book',
            'people.crew__kept_'.((int) Change::query()->value('id')),
        ];
        $values = [
            '{fingerprint}' => $ids('statements', 'fingerprint'),
            '{id}' => $ids('plans'),
            '{finding}' => $ids('findings'),
            '{change}' => $ids('changes'),
            '{proof}' => $ids('proofs'),
            '{notification}' => $ids('notifications'),
            '{decision}' => $ids('access_decisions'),
            '{import}' => $ids('imports'),
            '{cluster}' => ['fernhill'],
            '{slug}' => ['fernhill'],
            '{format}' => ['csv', 'json', 'xlsx', 'parquet', 'trace'],
            '{file}' => ['yaml', 'json'],
            '{kind}' => ['labels', 'rules', 'people', 'releases', 'grants'],
            '{key}' => $ids('workbench_runs', 'key'),
            '{rule}' => ['skew'],
            '{folder}' => ['x'],
            '{stage}' => ['0'],
            '{rewrite}' => ['skipping'],
            '{way}' => ['span'],
            '{campaign}' => ['1'],
        ];
        $addresses = [];
        foreach (Routes::getRoutes()->getRoutes() as $route) {
            assert($route instanceof Route);
            if ($route->methods()[0] !== 'GET' || in_array($route->uri(), ['up', 'sign-in'], true)) {
                continue;
            }
            $open = ['/'.ltrim($route->uri(), '/')];
            foreach (
                $values + [
                    '{run}' => str_contains($route->uri(), 'encodings')
                        ? $ids('lab_runs')
                        : (str_contains($route->uri(), 'tuning')
                            ? $ids('tuning_runs')
                            : ['1']),
                ] as $mark => $all
            ) {
                $open = array_merge(
                    ...array_map(
                        static fn (string $address): array => str_contains($address, $mark)
                            ? array_map(static fn (string $one): string => str_replace($mark, $one, $address), $all)
                            : [$address],
                        $open === [] ? [''] : $open,
                    ),
                );
            }
            $filled = [];
            foreach (Parts::said($open) as $address) {
                if (str_contains($address, '{schema}/{name}')) {
                    $filled = [
                        ...$filled,
                        ...array_map(
                            static fn (string $table): string => str_replace('{schema}/{name}', str_replace('.', '/', $table), $address),
                            $tables,
                        ),
                    ];
                } else {
                    $filled = [
                        ...$filled,
                        ...str_contains($address, '{name}')
                            ? array_map(
                                static fn (string $table): string => str_replace(
                                    '{name}',
                                    str_contains($address, 'products') ? 'list' : $table,
                                    $address,
                                ),
                                $tables,
                            )
                            : [$address],
                    ];
                }
            }
            array_push($addresses, ...$filled);
        }
        foreach (['name', 'phone', 'wage', 'region', 'id'] as $column) {
            $addresses[] = "/tune/layout/fernhill/people.crew?column={$column}";
        }
        foreach (
            [
                '/guard/explain?who=engineer&object=fernhill.people.crew',
                '/guard/explain?who=viewer&object=fernhill.people.crew.phone',
                '/guard/matrix?by=people',
                '/guard/matrix/export?by=people',
                '/tune/statements?cluster=fernhill&window=2026-11-19',
                '/tune/statements/export/csv?cluster=fernhill&window=2026-11-19',
                '/tune/statements/report?cluster=fernhill&window=2026-11-19',
                '/tune/catalog?cluster=fernhill',
                '/tune/rollups?cluster=fernhill&table=people.crew',
                '/ledger?words=crew',
                '/guard/requests?object=fernhill.people.crew',
            ] as $address
        ) {
            $addresses[] = $address;
        }
        foreach (DB::table('statements')->pluck('fingerprint') as $fingerprint) {
            array_push(
                $addresses,
                "/tune/statements/{$fingerprint}?cluster=fernhill&window=last+28+days",
                "/tune/statements/{$fingerprint}/report?cluster=fernhill&window=last+28+days",
            );
        }

        return array_values(array_unique($addresses));
    }
}
