<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Cost\Application\Prices;
use App\Encodings\Application\LabPage;
use App\Encodings\Models\LabRun;
use App\Estate\Connectors\Connectors;
use App\Estate\Connectors\MariaDbIndexes;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Estate\Pricing\MoneyRates;
use App\Ledger\Changes\Changes;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Platform\Support\Role;
use App\Telemetry\Workload\EstateReader;
use App\Tuning\Models\TuningRun;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Price;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Storage\Encodings\Variant;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Http\Request;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Rollups, lookups, encodings, indexes, rewrites and whole tuning runs, from proposal to proof on a small cluster.
 */
#[Group('today')]
final class TuningTest extends TestCase
{
    private const DAILY = "SELECT bay, date_trunc('day', read_at) AS day, avg(value) AS mean, max(value) AS peak FROM field.reading "
        ."WHERE read_at >= date '2026-11-05' GROUP BY bay, date_trunc('day', read_at)";

    private const WEEK = 'SELECT r.bay, avg(r.value) AS mean FROM field.reading r JOIN field.calendar c ON c.day = cast(r.read_at AS '
        .'date) WHERE c.week = 46 GROUP BY r.bay';

    private Cluster $home;

    private Warehouse $warehouse;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-20 10:02:00');
        $root = sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4));
        config(['fulcrion.practice' => $root, 'queue.default' => 'sync']);
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
        $this->warehouse = Warehouse::create(
            PracticeClusters::root('fernhill'),
            'Fernhill',
            4,
            new HardwareProfile(rowFactor: 10_000, chunkOpenUs: 8000),
        );
        Warehouse::create(PracticeClusters::root('wren'), 'Wren', 2, new HardwareProfile(rowFactor: 10_000, chunkOpenUs: 8000));
        $this->sql('CREATE SCHEMA field');
        $this->sql(
            'CREATE TABLE field.reading (bay bigint NOT NULL, kind text NOT NULL, read_at timestamp NOT NULL, value double NOT NULL) '
                .'PLACED EVENLY SORTED BY (read_at) CHUNKS OF 2048 ROWS',
        );
        $this->sql('CREATE TABLE field.calendar (day date NOT NULL, week bigint, season text) PLACED EVERYWHERE');
        $numbers = 'VALUES '.implode(', ', array_map(static fn (int $i): string => "({$i})", range(0, 199)));
        // Bays in shuffled order over twenty days, as sensors send them.
        $this->sql(
            "INSERT INTO field.reading SELECT n.a % 40, CASE WHEN n.b % 3 = 0 THEN 'warm' ELSE 'damp' END, timestamp '2026-10-31 "
                ."00:00:00' + INTERVAL n.minute MINUTE, (n.a * n.b % 300) / 10.0 FROM (SELECT a.x AS a, b.x AS b, (a.x * 7919 + b.x * "
                ."104729) % 28800 AS minute FROM ({$numbers}) a (x) CROSS JOIN ({$numbers}) b (x)) n",
        );
        $this->sql(
            "INSERT INTO field.calendar SELECT date '2026-10-26' + INTERVAL a.x DAY, 44 + cast(floor(a.x / 7) AS bigint), 'autumn' "
                ."FROM ({$numbers}) a (x)",
        );
        $this->sql('ANALYZE TABLE field.reading');
        $this->sql('ANALYZE TABLE field.calendar');
        $home = app(Connectors::class)->keeper($this->home) ?? self::fail('no keeper');
        $wren = app(Connectors::class)->keeper(Cluster::query()->where('slug', 'wren')->firstOrFail()) ?? self::fail('no keeper');
        $wren->makeSchema('field');
        foreach (['field.reading', 'field.calendar'] as $table) {
            $wren->borrow($home, $table, $table, 1.0, static fn (): bool => false);
        }
        $this->send(self::DAILY, 300);
        $this->send(self::WEEK, 60);
        $this->actingAs($this->person(Role::Engineer));
    }

    protected function tearDown(): void
    {
        $this->warehouse->destroy();
        Warehouse::open(PracticeClusters::root('wren'))->destroy();
        @rmdir((string) config('fulcrion.practice'));
        Carbon::setTestNow();
        parent::tearDown();
    }

    public function test_repeated_groups_and_joins_that_only_filter_are_found_fixed_and_proven(): void
    {
        Artisan::call('storage:audit', ['cluster' => 'fernhill']);
        foreach (['repeated-groups' => 'CREATE ROLLUP', 'joined-to-filter' => 'CREATE OR REPLACE LOOKUP'] as $rule => $statement) {
            $finding =
                Finding::query()->where('rule', $rule)->first() ??
                self::fail("no finding {$rule}: ".Finding::query()->pluck('rule')->implode(', '));
            $this->post("/tune/layout-findings/{$finding->id}/propose")->assertRedirectContains('/ledger/changes/');
            $change = Change::query()->latest('id')->firstOrFail();
            self::assertStringStartsWith($statement, $change->sealed_steps[0]);
            self::assertSame('applied', $this->through($change)->state->value, (string) $change->error);
            self::assertSame([], Warehouse::open(PracticeClusters::root('wren'))->rollupBook()->rollups(), 'the rehearsal cleared up');
            $proof = $change->latestProof('applied') ?? self::fail('no proof');
            self::assertTrue($proof->holds);
            self::assertGreaterThan(1.2, $proof->factor, $proof->sentence);
            self::assertSame('solved', $finding->refresh()->state->value, $rule);
        }
        $page = $this->get('/tune/rollups')
            ->assertOk()
            ->assertSee('2 rollups and lookups of Fernhill')
            ->assertSee('field.reading_by_bay_day')
            ->assertSee('field.calendar_by_day');
        self::assertStringContainsString('up to its table', (string) $page->getContent());
        $this->sql("INSERT INTO field.reading VALUES (3, 'warm', timestamp '2026-11-19 12:00:00', 9.5)");
        $this->get('/tune/rollups')->assertSee('1 rows behind');
        Artisan::call('storage:refresh');
        $this->get('/tune/rollups')->assertDontSee('rows behind');
        // Dropping what pays is rehearsed like anything else, and tells what it would cost.
        $this->post('/tune/rollups/fernhill/drop', ['name' => 'field.reading_by_bay_day'])->assertRedirectContains('/ledger/changes/');
        $drop = Change::query()->latest('id')->firstOrFail();
        app(Changes::class)->rehearse($drop, $this->person(Role::Engineer));
        self::assertStringContainsString('now take more', (string) $drop->refresh()->latestProof('rehearsal')?->sentence);
        $this->post('/tune/rollups/fernhill/drop', ['name' => 'field.nothing'])->assertSessionHas(
            'failed',
            'There is no field.nothing any more.',
        );
        $this->post('/tune/rollups/fernhill/refresh', ['name' => 'field.reading_by_bay_day'])->assertSessionHas('done');
    }

    public function test_rollups_are_chosen_for_a_space_and_proposed_by_name(): void
    {
        $this->get('/tune/rollups?table=field.reading')
            ->assertOk()
            ->assertSee('Rollups worth having')
            ->assertSee('bay, day of read_at')
            ->assertSee('CREATE ROLLUP field.reading_by_bay_day');
        $this->post('/tune/rollups/fernhill/rollups/field.reading', ['space' => 1e9, 'rollups' => []])->assertSessionHasErrors('rollups');
        $this->post('/tune/rollups/fernhill/rollups/field.reading', ['space' => 1e9, 'rollups' => ['field.other']])->assertSessionHas(
            'failed',
        );
        $this->post('/tune/rollups/fernhill/rollups/field.reading', [
            'space' => 1e9,
            'rollups' => ['field.reading_by_bay_day'],
        ])->assertRedirectContains('/ledger/changes/');
        self::assertSame('proposed', Change::query()->firstOrFail()->state->value);
    }

    public function test_the_lab_tells_the_size_a_change_will_have_within_ten_percent(): void
    {
        $this->post('/tune/encodings', ['table' => 'fernhill:field.reading'])->assertRedirectContains('/tune/encodings/');
        $run = LabRun::query()->firstOrFail();
        self::assertSame('done', $run->state, (string) $run->error);
        $page = new LabPage($run, Request::create('/', 'GET', ['aim' => 'smallest']), app(EstateReader::class), null);
        self::assertNotSame(Variant::ROWS, $page->chosen->policy);
        $this->get("/tune/encodings/{$run->id}?aim=smallest")
            ->assertOk()
            ->assertSee($page->sentence())
            ->assertSee('beaten by no other')
            ->assertSee('Columns');
        $before = $this->warehouse->table('field', 'reading')?->checksum();
        $this->post("/tune/encodings/{$run->id}/propose", ['variant' => $page->chosen->key()])->assertRedirectContains('/ledger/changes/');
        $change = $this->through(Change::query()->firstOrFail());
        self::assertSame('applied', $change->state->value, (string) $change->error);
        $table = $this->warehouse->table('field', 'reading') ?? self::fail('no table');
        self::assertSame($before, $table->checksum());
        self::assertEqualsWithDelta($page->size($page->chosen), $table->manifest()->bytes(4) * 10_000, 0.1 * $page->size($page->chosen));
        self::assertStringContainsString('% less', $change->latestProof('applied')->conditions['stored'] ?? '');
        app(Changes::class)->undo($change, $this->person(Role::Engineer));
        self::assertSame('undone', $change->refresh()->state->value, (string) $change->error);
        self::assertSame('gzip4', $table->manifest()->definition->packing->compression);

        $whole = $page->find(Variant::ROWS, 'gzip9', 'as it comes');
        $this->post("/tune/encodings/{$run->id}/propose", ['variant' => $whole->key()])->assertSessionHas('failed');
        $this->post('/tune/encodings', ['table' => 'fernhill:field.gone'])->assertSessionHasErrors('table');
        $this->post('/tune/encodings', [])->assertSessionHasErrors('table');
    }

    public function test_the_lab_takes_its_prices_from_the_price_book_and_says_where_there_are_none(): void
    {
        $this->post('/tune/encodings', ['table' => 'fernhill:field.reading'])->assertRedirectContains('/tune/encodings/');
        $run = LabRun::query()->firstOrFail();
        $address = "/tune/encodings/{$run->id}";
        // Without a price the cheapest cannot be told: the smallest is what is looked for.
        $page = $this->get($address)->assertOk()->assertSee('No price of Fernhill is written down')
            ->assertDontSee('a month to keep and read');
        self::assertMatchesRegularExpression('~value="smallest"\s+selected~', (string) $page->getContent());
        $this->get("{$address}?gib=0.03&node=1.2&aim=balanced")->assertOk()->assertSee('a month to keep and read')
            ->assertDontSee('is written down');
        $prices = app(Prices::class);
        $cluster = Cluster::query()->where('slug', 'fernhill')->firstOrFail();
        foreach ([[PriceKind::StorageMonth, '0.5'], [PriceKind::NodeHour, '2']] as [$kind, $amount]) {
            $prices->add($cluster, new Price(
                $kind, '', BigDecimal::of($amount), 1_000, BigDecimal::one(), BigDecimal::zero(),
            ), 'x');
        }
        $this->app->forgetScopedInstances();
        $this->get($address)->assertOk()->assertSee('value="0.5"', false)->assertSee('value="2"', false)
            ->assertSee('a month to keep and read')
            ->assertSee('A GiB a month, EUR');
        // What is typed goes before what is written down.
        $this->get("{$address}?gib=7")->assertSee('value="7"', false)->assertSee('value="2"', false);
        // Twice the prices, twice the cost.
        $of = fn (string $query): LabPage => new LabPage(
            $run,
            Request::create("/?{$query}"),
            app(EstateReader::class),
            app(MoneyRates::class)->of($cluster),
        );
        [$once, $twice] = [$of('aim=smallest'), $of('aim=smallest&gib=1&node=4')];
        self::assertEqualsWithDelta(2 * $once->month($once->chosen), $twice->month($twice->chosen), 1e-9);
        self::assertGreaterThan(0.0, $once->month($once->chosen));
    }

    public function test_a_file_somebody_brings_is_stored_every_way_and_a_bad_one_is_refused_by_its_line(): void
    {
        $csv = static fn (string $text) => \Illuminate\Http\UploadedFile::fake()->createWithContent('picks.csv', $text);
        $rows = implode(
            "\n",
            array_map(
                static fn (int $i): string => "{$i},bay ".$i % 7 .',2026-11-'.sprintf('%02d', 1 + ($i % 20)).','.$i / 4,
                range(1, 600),
            ),
        );
        $this->post('/tune/encodings', ['file' => $csv("id,bay,day,kilos\n{$rows}")])->assertRedirect();
        $run = LabRun::query()->firstOrFail();
        self::assertSame('done', $run->state, (string) $run->error);
        self::assertSame(600.0, $run->fact('tableRows'));
        $this->get("/tune/encodings/{$run->id}")
            ->assertOk()
            ->assertSee('picks.csv would take')
            ->assertDontSee('Propose this change');
        $this->get("/tune/encodings/{$run->id}", ['HX-Request' => 'true', 'HX-Target' => 'lab-progress'])
            ->assertOk()
            ->assertSee('data-reloads', false)
            ->assertDontSee('<html', false);
        foreach (
            [
                "id,bay\n1,2\n3\n" => 'Line 3 has 1 fields, line 1 names 2',
                "id,id\n1,2\n" => 'no two alike',
                "id,bay\n" => 'no rows',
                'PAR1nothing' => 'Parquet',
            ] as $text => $why
        ) {
            $this->post('/tune/encodings', ['file' => $csv($text)]);
            self::assertStringContainsString($why, (string) LabRun::query()->orderByDesc('id')->firstOrFail()->error);
        }
        self::assertSame([], glob(storage_path('app/lab/*')), 'no file is kept');
    }

    public function test_rewrites_are_told_measured_and_what_could_be_written_is_tried(): void
    {
        $sql =
            'SELECT DISTINCT c.season FROM field.calendar c JOIN field.reading r ON cast(r.read_at AS date) = c.day WHERE r.value > 25 '
                ."AND cast(r.read_at AS date) = date '2026-11-12'";
        $address =
            $this->post('/tune/rewrites', ['cluster' => 'fernhill', 'schema' => 'field', 'sql' => $sql])->headers->get('Location') ?? '';
        $page = $this->get($address)
            ->assertOk()
            ->assertSee('Filters before joins')
            ->assertSee('Ask whether there is a match')
            ->assertSee('Say the filter as a span');
        preg_match_all('~hx-get="(/tune/rewrites/[^"]+)"~', (string) $page->getContent(), $parts);
        self::assertGreaterThan(3, count($parts[1]));
        foreach ($parts[1] as $part) {
            $this->get($part)->assertOk()->assertSee('equal, 1 row')->assertDontSee('they differ');
        }
        $this->actingAs($this->person(Role::Owner))->get($address)->assertNotFound();
        $this->actingAs($this->person(Role::Engineer));
        $broken =
            $this->post('/tune/rewrites', ['cluster' => 'fernhill', 'sql' => 'SELECT nothing FROM field.reading'])->headers->get(
                'Location',
            ) ?? '';
        $this->get($broken)->assertOk()->assertSee('could not be looked at');
        $this->post('/tune/rewrites', ['cluster' => 'fernhill'])->assertSessionHasErrors('sql');
        $fingerprint = (string) DB::table('statements')->where('text', 'like', '%calendar%')->value('fingerprint');
        $this->get(
            (string) $this->post('/tune/rewrites', ['cluster' => 'fernhill', 'fingerprint' => $fingerprint])->headers->get('Location'),
        )
            ->assertOk()
            ->assertSee('field.calendar');
    }

    public function test_a_tuning_run_keeps_what_pays_and_its_steps_can_be_applied_together(): void
    {
        $this->post('/tune/tuning', [
            'cluster' => 'fernhill',
            'which' => 'worst',
            'minutes' => 10,
            'gib' => 1000,
            'when' => 'now',
        ])->assertRedirectContains('/tune/tuning/');
        $run = TuningRun::query()->firstOrFail();
        self::assertSame('done', $run->state, (string) $run->error);
        $steps = $run->steps['steps'] ?? [];
        $kept = array_values(array_filter($steps, static fn (array $step): bool => $step['state'] === 'kept'));
        self::assertGreaterThan(1, count($kept));
        self::assertLessThan(0.5 * $steps[0]['weekUs'], $steps[count($steps) - 1]['weekUs']);
        for ($i = 1; $i < count($steps); $i++) {
            self::assertLessThanOrEqual($steps[$i - 1]['weekUs'], $steps[$i]['weekUs'], 'the stair only falls');
        }
        foreach ($run->steps['lines'] ?? [] as $line) {
            self::assertTrue($line['equal'], $line['text']);
        }
        self::assertSame(['field'], Warehouse::open(PracticeClusters::root('wren'))->schemas(), 'the copies are gone');
        $this->get("/tune/tuning/{$run->id}")
            ->assertOk()
            ->assertSee('times less')
            ->assertSee('Approve and apply the ticked steps');
        // What waits for the end is told to load the page, not given it to put into itself.
        $this->get("/tune/tuning/{$run->id}", ['HX-Request' => 'true', 'HX-Target' => 'tuning-progress'])
            ->assertOk()
            ->assertSee('data-reloads', false)
            ->assertDontSee('<html', false);
        $report = $this->get("/tune/tuning/{$run->id}/report")->assertOk();
        self::assertDoesNotMatchRegularExpression('~<(script|link|img)~', (string) $report->getContent(), 'it needs nothing else');
        $changes = array_values(array_filter(array_column($kept, 'change'), is_int(...)));
        $this->post("/tune/tuning/{$run->id}/apply", ['changes' => []])->assertSessionHasErrors('changes');
        $this->post("/tune/tuning/{$run->id}/apply", ['changes' => $changes])->assertSessionHas('done');
        foreach ($changes as $id) {
            self::assertSame('applied', Change::query()->findOrFail($id)->state->value, (string) Change::query()->findOrFail($id)->error);
        }
        foreach (array_reverse($changes) as $id) {
            app(Changes::class)->undo(Change::query()->findOrFail($id), $this->person(Role::Engineer));
            self::assertSame('undone', Change::query()->findOrFail($id)->state->value, (string) Change::query()->findOrFail($id)->error);
        }
    }

    public function test_limits_are_kept_and_a_run_by_night_waits_for_its_hour(): void
    {
        $this->post('/tune/tuning', [
            'cluster' => 'fernhill',
            'which' => 'worst',
            'minutes' => 10,
            'gib' => 0,
            'when' => 'night',
            'at' => '02:30',
        ])->assertRedirect();
        $run = TuningRun::query()->firstOrFail();
        self::assertSame('planned', $run->state);
        Artisan::call('tuning:tonight');
        self::assertSame('planned', $run->refresh()->state);
        Carbon::setTestNow('2026-11-21 03:00:00');
        Artisan::call('tuning:tonight');
        self::assertSame('done', $run->refresh()->state, (string) $run->error);
        $left = array_filter(
            $run->steps['steps'] ?? [],
            static fn (array $step): bool => $step['state'] === 'left out' && str_contains($step['note'], 'more than was left of'),
        );
        self::assertNotSame([], $left, 'nothing may be written anew');
        $this->post('/tune/tuning', [
            'cluster' => 'fernhill',
            'which' => 'chosen',
            'minutes' => 0,
            'gib' => -1,
            'when' => 'night',
            'at' => '25:00',
        ])->assertSessionHasErrors(['statements', 'minutes', 'gib', 'at']);
    }

    public function test_an_index_is_tried_on_a_copy_and_made_on_the_table_of_a_live_mariadb(): void
    {
        config(['fulcrion.keeper.schemas' => 'brackenfold_test']);
        $database = config('database.connections.mariadb');
        $own = Cluster::query()
            ->create([
                'slug' => 'own',
                'name' => 'Own store',
                'role' => 'own',
                'connector' => 'mariadb',
                'dialect' => Dialect::MariaDb,
                'is_own' => true,
                'host' => '127.0.0.1',
                'port' => (int) $database['port'],
                'username' => 'x',
                'secret' => 'x',
            ])
            ->refresh();
        $source = app(Connectors::class)->indexes($own);
        self::assertInstanceOf(MariaDbIndexes::class, $source);
        $this->beforeApplicationDestroyed(static function () use ($source): void {
            $source->apply('DROP TABLE IF EXISTS brackenfold_test.note');
            $source->apply('DROP DATABASE IF EXISTS brackenfold_test_rehearsal');
        });
        $source->apply(
            'CREATE OR REPLACE TABLE brackenfold_test.note (id INT PRIMARY KEY, buyer VARCHAR(20) NOT NULL, day DATE NOT NULL, weight '
                .'INT NOT NULL, KEY by_day (day), KEY by_day_and_buyer (day, buyer))',
        );
        $source->apply(
            "INSERT INTO brackenfold_test.note SELECT seq, CONCAT('buyer ', seq * 7919 % 300), DATE '2026-06-01' + INTERVAL seq % 150 "
                .'DAY, seq % 90 FROM brackenfold_test.seq_1_to_20000',
        );
        $source->apply('ANALYZE TABLE brackenfold_test.note');
        $sql = "SELECT id, weight FROM brackenfold_test.note WHERE buyer = 'buyer 7' AND weight > 10";
        $this->send($sql, 40, 'own', ['rows_examined' => 20_000, 'full_scan' => true, 'database' => 'brackenfold_test']);

        $this->get('/tune/indexes?cluster=own')
            ->assertOk()
            ->assertSee('One index')
            ->assertSee('buyer, weight')
            ->assertSee('by_day_and_buyer (day, buyer) begins with the same columns');
        $this->post('/tune/indexes/own/propose', ['table' => 'brackenfold_test.note', 'index' => 'by_nothing'])->assertSessionHas('failed');
        $answer = $this->post('/tune/indexes/own/propose', ['table' => 'brackenfold_test.note', 'index' => 'by_buyer_weight']);
        self::assertStringContainsString(
            '/ledger/changes/',
            (string) $answer->headers->get('Location'),
            (string) json_encode(session()->all()),
        );
        $change = Change::query()->firstOrFail();
        $names = static fn (): array => array_map(
            static fn ($index): string => $index->name,
            $source->tables()['brackenfold_test.note']->indexes,
        );
        $this->post("/ledger/changes/{$change->id}/rehearse")->assertRedirect();
        self::assertSame('rehearsed', $change->refresh()->state->value, (string) $change->error);
        self::assertNotContains('by_buyer_weight', $names(), 'the table itself was not touched');
        $proof = $change->latestProof('rehearsal') ?? self::fail('no proof');
        self::assertTrue($proof->holds, $proof->sentence.json_encode($proof->measured));
        self::assertGreaterThan(2, $proof->factor, $proof->sentence);
        $this->post("/ledger/changes/{$change->id}/approve");
        $this->post("/ledger/changes/{$change->id}/apply");
        self::assertSame('applied', $change->refresh()->state->value, (string) $change->error);
        self::assertContains('by_buyer_weight', $names());
        $this->get('/tune/indexes?cluster=own')->assertSee('There for nothing')->assertDontSee('by_buyer_weight</summary>', false);
        $this->post("/ledger/changes/{$change->id}/undo");
        self::assertSame('undone', $change->refresh()->state->value, (string) $change->error);
        self::assertNotContains('by_buyer_weight', $names());
    }

    private function through(Change $change): Change
    {
        $user = $this->person(Role::Engineer);
        $changes = app(Changes::class);
        $changes->rehearse($change, $user);
        self::assertSame('rehearsed', $change->refresh()->state->value, (string) $change->error);
        self::assertTrue(
            $change->latestProof('rehearsal')?->holds,
            (string) $change->latestProof('rehearsal')?->sentence.json_encode($change->latestProof('rehearsal')?->measured),
        );
        $changes->approve($change, $user);
        $changes->apply($change->refresh(), $user);

        return $change->refresh();
    }

    private function sql(string $sql): void
    {
        app(Connectors::class)->keeper($this->home)?->apply($sql, static fn (): bool => false);
    }

    /**
     * @param  array<string, mixed>  $more
     */
    private function send(string $sql, int $times, string $cluster = 'fernhill', array $more = []): void
    {
        $records = array_map(
            static fn (int $i): array => $more + [
                'started_at' => gmdate('Y-m-d\TH:i:s\Z', 1_795_080_000 + $i * 60),
                'duration_us' => 900_000 + $i,
                'sql' => $sql,
                'database' => 'field',
                'user' => 'boards',
                'bytes_scanned' => 1_000_000,
            ],
            range(1, $times),
        );
        self::assertSame(
            0,
            Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => $cluster]),
            Artisan::output(),
        );
    }
}
