<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Backup\Application\BackupBook;
use App\Backup\Application\BackupFindings;
use App\Backup\Application\CheckBackup;
use App\Backup\Models\BackupCheck;
use App\Capacity\Application\CapacityStore;
use App\Capacity\Application\StoragePlaces;
use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Health\Application\ClusterLines;
use App\Ledger\Models\Finding;
use App\Metrics\Signals\SignalSources;
use App\Platform\Support\Role;
use Fulcrion\Core\Backup\Backup;
use Fulcrion\Core\Backup\BackupKind;
use Fulcrion\Core\Backup\BackupState;
use Fulcrion\Core\Capacity\PartKind;
use Fulcrion\Core\Capacity\StoredPart;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Tools\Demo\DemoBackups;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Illuminate\Testing\TestResponse;
use Tests\TestCase;

/**
 * Which backups there are, what could be got back from them, and files that are really read.
 */
final class BackupTest extends TestCase
{
    private const NOW = 1_796_040_000;

    private Cluster $fern;

    private string $lake;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestampUTC(self::NOW));
        $this->lake = sys_get_temp_dir().'/fulcrion-lake-'.bin2hex(random_bytes(4));
        mkdir("{$this->lake}/one", recursive: true);
        config(['fulcrion.practice' => "{$this->lake}-practice", 'fulcrion.lake' => $this->lake]);
        mkdir("{$this->lake}-practice");
        Warehouse::create(PracticeClusters::root('fernhill'), 'Fernhill', 2, new HardwareProfile(rowFactor: 1_000));
        $this->fern = Cluster::query()
            ->create(['slug' => 'fernhill', 'name' => 'Fernhill', 'role' => 'production', 'connector' => 'practice',
                'dialect' => Dialect::Ansi])->refresh();
        $this->actingAs($this->person(Role::Engineer));
    }

    protected function tearDown(): void
    {
        exec('rm -rf '.escapeshellarg($this->lake).' '.escapeshellarg("{$this->lake}-practice"));
        Carbon::setTestNow();
        parent::tearDown();
    }

    private static function backup(string $schema, int $hoursAgo, string $place = '', ?string $failure = null, ?int $bytes = 1_000): Backup
    {
        $start = (self::NOW - $hoursAgo * 3_600) * 1_000_000;

        return new Backup("{$schema} nightly", BackupKind::Full, [$schema], $start, $start + 60_000_000, $bytes, $place, $failure);
    }

    private function keep(Backup ...$backups): void
    {
        app(BackupBook::class)->keep($this->fern, array_values($backups));
    }

    /** @param  array<int|string, string>  $files */
    private function folder(array $files): string
    {
        $folder = "{$this->lake}/one";
        $list = '';
        foreach ($files as $name => $text) {
            is_dir(dirname("{$folder}/{$name}")) || mkdir(dirname("{$folder}/{$name}"), recursive: true);
            file_put_contents("{$folder}/{$name}", $text);
            $list .= hash('sha256', $text)."  {$name}\n";
        }
        file_put_contents("{$folder}/SHA256SUMS", $list);

        return $folder;
    }

    private function check(): BackupCheck
    {
        $id = (int) DB::table('backups')->max('id');
        $this->post("/tend/backups/{$id}/check")->assertRedirect('/tend/backups?cluster=fernhill');

        return BackupCheck::query()->latest('id')->firstOrFail();
    }

    public function test_the_planted_troubles_are_found_and_nobody_else_is_accused(): void
    {
        $warehouse = Warehouse::open(PracticeClusters::root('fernhill'));
        foreach (['energy', 'field', 'people', 'ref', 'trade'] as $schema) {
            $warehouse->createSchema($schema);
            $this->table($warehouse, $schema, 'thing');
            app(Clusters::class)->as(Actor::system(SystemActor::Demo, 'rows of a test'))->runner($this->fern)
                ?->run('INSERT INTO thing VALUES (1), (2), (3), (4)', $schema);
        }
        app(DemoBackups::class)->write(self::NOW);
        $found = Finding::query()->where('source', BackupFindings::SOURCE)->orderBy('rule')->get();
        self::assertSame(['damaged-backup', 'no-good-backup'], $found->pluck('rule')->all());
        self::assertCount(2, $found);
        self::assertMatchesRegularExpression('~^The backup “trade” of .* is damaged: thing/.* differs from its checksum$~',
            (string) $found[0]?->problem);
        self::assertSame('watch', $found[0]?->severity->value, 'newer ones are good');
        self::assertMatchesRegularExpression('~^Schema energy has had no good backup for 9 d \d+ h$~', (string) $found[1]?->problem);
        self::assertTrue($found[1]->urgent);
        self::assertStringContainsString('energy.tariff_2025 does not exist', (string) json_encode($found[1]->evidence));
        $history = app(BackupBook::class)->history($this->fern, self::NOW * 1_000_000);
        $states = [];
        foreach ($history->backups as $place => $one) {
            if ($one->startedUs > (self::NOW - 13 * 86_400) * 1_000_000) {
                $states[$one->plan][$history->states[$place]->value] = true;
            }
        }
        self::assertSame(['checked', 'damaged', 'not checked'], self::keys($states['trade']));
        self::assertSame(['checked', 'not checked'], self::keys($states['ref']));
        self::assertSame(['failed', 'not checked'], self::keys($states['energy']));
        self::assertSame(['not checked'], self::keys($states['field']), 'a week of incremental ones goes with what it builds on');
        $this->get('/tend/backups')->assertOk()->assertSee('Schema energy of Fernhill has had no good backup for 9 d');
        $line = app(ClusterLines::class)->of($this->fern, self::NOW);
        self::assertSame('energy', $line->backupOf);
        self::assertEqualsWithDelta(9.5 * 86_400, $line->backupSeconds, 86_400);
    }

    /**
     * @param  array<string, bool>  $of
     * @return list<string>
     */
    private static function keys(array $of): array
    {
        $keys = array_keys($of);
        sort($keys);

        return $keys;
    }

    private function table(Warehouse $warehouse, string $schema, string $name): void
    {
        $warehouse->createTable($schema, $name, new TableDefinition([new Column('id', ColumnType::of(TypeKind::Bigint), false)],
            Distribution::even()), self::NOW * 1_000_000);
    }

    public function test_a_log_is_read_from_a_file_or_a_program_and_complains_by_line(): void
    {
        $this->get('/tend/backups')->assertOk()->assertSee('No backup of Fernhill is known');
        $csv = "plan,schemas,started,ended,bytes\nnightly,energy trade,2026-11-29T01:30:00Z,2026-11-29T02:00:00Z,5000\n"
            ."nightly,,2026-11-30T01:30:00Z,2026-11-30T02:00:00Z,5000\n";
        $send = fn (string $text): TestResponse => $this->post('/tend/backups/fernhill/log',
            ['log' => UploadedFile::fake()->createWithContent('b.csv', $text)]);
        $send($csv)->assertSessionHas('done', '1 backup was read. Left out: Line 3: schemas has to name at least one schema.');
        $send("plan,started\n")->assertSessionHas('failed');
        self::assertSame(1, DB::table('backups')->count());
        $this->get('/tend/backups')->assertOk()->assertSee('nightly')->assertSee('energy, trade');
        $token = $this->fern->createToken('vault', ['metrics:write'])->plainTextToken;
        $post = function (string $body, string $with): TestResponse {
            $this->app['auth']->forgetGuards();

            return $this->call('POST', '/api/backups', [], [], [],
                ['HTTP_AUTHORIZATION' => "Bearer {$with}", 'HTTP_ACCEPT' => 'application/json'], $body);
        };
        $json = '{"plan":"hourly","schemas":["ref"],"started":"2026-11-29T01:30:00Z","ended":"2026-11-29T01:31:00Z"}'."\n{x\n";
        $post($json, $token)->assertOk()->assertExactJson(['backups' => 1, 'complaints' => ['Line 2: it cannot be read as JSON.']]);
        $post($json, $token)->assertOk();
        self::assertSame(2, DB::table('backups')->count(), 'the same backup twice is one');
        $post('nothing', $token)->assertStatus(400);
        $post(str_repeat(' ', 20_000_001), $token)->assertStatus(413);
        $post($json, $this->fern->createToken('other', ['executions:write'])->plainTextToken)->assertForbidden();
        $post($json, 'wrong')->assertUnauthorized();
    }

    public function test_files_are_really_read_and_one_bit_is_noticed(): void
    {
        $folder = $this->folder(['a.parquet' => random_bytes(5_000_000),
            'deep/b c.parquet' => 'text', 'empty' => '', '42' => 'x', "\xff" => 'y']);
        $this->keep(self::backup('energy', 5, $folder));
        $check = $this->check();
        self::assertSame([null, 'done'], [$check->error, $check->state]);
        self::assertSame([5, 5_000_006, 0, 0], [$check->result['files'] ?? null, $check->result['bytes'] ?? null,
            $check->result['damaged'] ?? null, $check->result['others'] ?? null]);
        self::assertSame([BackupState::Checked], app(BackupBook::class)->history($this->fern, self::NOW * 1_000_000)->states);
        $this->get('/tend/backups')->assertOk()->assertSee('5 files agree, none differs');

        $text = (string) file_get_contents("{$folder}/a.parquet");
        $text[2_500_000] = chr(ord($text[2_500_000]) ^ 1);
        file_put_contents("{$folder}/a.parquet", $text);
        unlink("{$folder}/empty");
        file_put_contents("{$folder}/extra", 'x');
        $check = $this->check();
        self::assertSame([3, 6, 2, 1], [$check->result['files'] ?? null, $check->result['bytes'] ?? null, $check->result['damaged'] ?? null,
            $check->result['others'] ?? null]);
        $history = app(BackupBook::class)->history($this->fern, self::NOW * 1_000_000);
        self::assertSame([BackupState::Damaged], $history->states);
        self::assertSame(['a.parquet differs from its checksum', 'empty is missing'], $history->backups[0]->damage);
        $found = Finding::query()->where('source', BackupFindings::SOURCE)->where('state', 'open')->orderBy('rule')->get();
        self::assertSame(['damaged-backup', 'no-good-backup'], $found->pluck('rule')->all());
        self::assertSame('act', $found[0]?->severity->value, 'there is no newer one');
        $this->get('/tend/backups')->assertOk()->assertSee('a.parquet differs from its checksum and 1 more');
        // Told again with the same files, what was found stays; with others, it is not known any more.
        $this->keep(self::backup('energy', 5, $folder));
        self::assertSame([BackupState::Damaged], app(BackupBook::class)->history($this->fern, self::NOW * 1_000_000)->states);
        $this->keep(self::backup('energy', 5, $folder, bytes: 1_001));
        self::assertSame([BackupState::Unchecked], app(BackupBook::class)->history($this->fern, self::NOW * 1_000_000)->states);
        app(BackupFindings::class)->report($this->fern, self::NOW * 1_000_000);
        self::assertSame(0, Finding::query()->where('source', BackupFindings::SOURCE)->where('state', 'open')->count());
    }

    public function test_only_files_of_open_folders_are_read_and_lists_that_cannot_be_used_say_so(): void
    {
        $folder = $this->folder(['a' => 'a']);
        $this->keep(self::backup('energy', 5, '/etc'));
        $id = (int) DB::table('backups')->max('id');
        $this->post("/tend/backups/{$id}/check")->assertSessionHas('failed');
        self::assertSame(0, BackupCheck::query()->count());
        $refused = function (string $said) use ($folder): void {
            $this->keep(self::backup('energy', 5, $folder));
            $check = $this->check();
            self::assertSame('failed', $check->state);
            self::assertStringContainsString($said, (string) $check->error);
            self::assertNull(DB::table('backups')->value('checked_us'), 'nothing is said of its files');
            $this->get('/tend/backups')->assertOk()->assertSee($said);
        };
        file_put_contents("{$folder}/SHA256SUMS", '');
        $refused('names no file');
        file_put_contents("{$folder}/SHA256SUMS", str_repeat('a', 64)."  ../../etc/passwd\n");
        $refused('Line 1: the file lies outside the folder');
        unlink("{$folder}/SHA256SUMS");
        $refused('There is no SHA256SUMS in the folder');
        symlink('/etc/hostname', "{$folder}/SHA256SUMS");
        $refused('There is no SHA256SUMS in the folder');
        unlink("{$folder}/SHA256SUMS");
        // What leads elsewhere, and what is no file, is damage and is not read.
        symlink('/etc/passwd', "{$folder}/away");
        mkdir("{$folder}/dir");
        posix_mkfifo("{$folder}/pipe", 0o600);
        $sum = hash_file('sha256', '/etc/passwd');
        file_put_contents("{$folder}/SHA256SUMS", "{$sum}  away\n{$sum}  dir\n{$sum}  pipe\n".hash('sha256', 'a')."  a\n");
        $check = $this->check();
        self::assertSame([1, 3], [$check->result['files'] ?? null, $check->result['damaged'] ?? null]);
        self::assertSame(['away is no file of this folder', 'dir is no file of this folder', 'pipe is no file of this folder'],
            app(BackupBook::class)->history($this->fern, self::NOW * 1_000_000)->backups[0]->damage);
    }

    public function test_one_is_checked_at_a_time_stopped_and_forgotten(): void
    {
        Queue::fake();
        $this->keep(self::backup('energy', 5, $this->folder(['a' => 'a'])), self::backup('ref', 5));
        $id = (int) DB::table('backups')->where('plan', 'energy nightly')->value('id');
        $this->post("/tend/backups/{$id}/check")->assertSessionMissing('failed');
        $check = BackupCheck::query()->firstOrFail();
        Queue::assertPushed(CheckBackup::class, 1);
        $this->get('/tend/backups')->assertOk()->assertSee('Checking a backup');
        $this->post("/tend/backups/{$id}/check")->assertSessionHas('failed');
        $this->get("/tend/backups/checks/{$check->id}", ['HX-Request' => 'true'])->assertOk()->assertSee('Stop');
        $this->post("/tend/backups/checks/{$check->id}/stop")->assertRedirect();
        app()->call([new CheckBackup($check->id), 'handle']);
        self::assertSame('stopped', $check->refresh()->state);
        self::assertNull(DB::table('backups')->where('id', $id)->value('checked_us'));
        $this->post("/tend/backups/{$id}/forget")->assertSessionHas('done');
        self::assertSame(['ref nightly'], DB::table('backups')->pluck('plan')->all());
        self::assertSame(0, BackupCheck::query()->count());
        $this->post("/tend/backups/{$id}/forget")->assertNotFound();
        $this->get("/tend/backups/checks/{$check->id}")->assertNotFound();
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/tend/backups')->assertOk()->assertSee('ref nightly')->assertDontSee('Forget')->assertDontSee('A log of backups');
    }

    public function test_their_age_is_a_signal_and_they_are_among_what_grows(): void
    {
        $signals = app(SignalSources::class);
        self::assertNull($signals->find($this->fern, 'backup:age'));
        $days = 86_400;
        $this->keep(self::backup('energy', 60), self::backup('ref', 60), self::backup('ref', 10), self::backup('energy', 10, '',
            'No space is left.', null), self::backup('trade', 29 * 24, bytes: 400), self::backup('trade', 2, bytes: 900));
        self::assertSame(3_600.0, $signals->find($this->fern, 'backup:age')?->scale);
        $trade = 29 * $days;
        self::assertSame(['' => [$trade - 5.0 * 3_600, 60 * 3_600.0]],
            array_map(static fn (array $one): array => [$one[0], $one[count($one) - 1]],
                $signals->values($this->fern, 'backup:age', self::NOW - 6 * 3_600, self::NOW, 3_600)));
        self::assertSame(['energy' => [60 * 3_600.0], 'ref' => [10 * 3_600.0], 'trade' => [2 * 3_600.0]],
            $signals->values($this->fern, 'backup:ages', self::NOW - 1, self::NOW, 1));
        self::assertSame([], $signals->values($this->fern, 'backup:other', self::NOW - 1, self::NOW, 1));
        app(CapacityStore::class)->keepParts($this->fern->id, self::NOW - 28 * $days, [new StoredPart(PartKind::Table, 'trade.x', 10.0)]);
        app(CapacityStore::class)->keepParts($this->fern->id, self::NOW, [new StoredPart(PartKind::Table, 'trade.x', 1_500.0)]);
        $grown = array_map(static fn (StoredPart $one): array => [$one->name(), $one->bytes],
            app(StoragePlaces::class)->grown($this->fern, self::NOW));
        self::assertSame([['backups “ref nightly”, kept elsewhere', 2_000.0], ['trade.x', 1_490.0],
            ['backups “energy nightly”, kept elsewhere', 1_000.0], ['backups “trade nightly”, kept elsewhere', 900.0]], $grown);
        $this->get('/tend/lines')->assertOk()->assertSee('Last backup')->assertSee('2 d 12 h ago')->assertSee('energy');
        Artisan::call('backups:judge');
        self::assertSame(['backup of energy'], Finding::query()->where('source', BackupFindings::SOURCE)->pluck('object')->all());
        Carbon::setTestNow(Carbon::createFromTimestampUTC(self::NOW + 500 * $days));
        Artisan::call('backups:judge');
        self::assertSame(0, DB::table('backups')->count(), 'what is old is forgotten');
    }

    public function test_ages_over_time_are_those_of_each_moment_by_itself(): void
    {
        $removed = self::backup('ref', 200);
        $this->keep(self::backup('energy', 400), self::backup('energy', 90), self::backup('energy', 40, '', 'No space is left.'),
            new Backup($removed->plan, $removed->kind, $removed->schemas, $removed->startedUs, $removed->endedUs, 7, '', null,
                (self::NOW - 77 * 3_600) * 1_000_000), self::backup('ref', 250), self::backup('ref', 30));
        $signals = app(SignalSources::class);
        foreach (['backup:age', 'backup:ages', 'backup:kept'] as $key) {
            $all = $signals->values($this->fern, $key, self::NOW - 300 * 3_600, self::NOW, 3_600);
            $other = [];
            for ($place = 0; $place < 300; $place++) {
                $from = self::NOW - (300 - $place) * 3_600;
                foreach ($signals->values($this->fern, $key, $from, $from + 3_600, 3_600) as $name => [$value]) {
                    $other[$name][$place] = $value;
                }
            }
            foreach ($all as $name => $values) {
                self::assertCount(300, $values);
                self::assertEqualsWithDelta($other[$name], array_filter($values, is_float(...)), 1e-6, "{$key} {$name}");
            }
            self::assertSame(array_keys($other), array_keys($all));
        }
    }

    public function test_a_schema_no_backup_names_is_missed_and_a_cluster_that_tells_of_none_is_not(): void
    {
        $warehouse = Warehouse::open(PracticeClusters::root('fernhill'));
        $warehouse->createSchema('people');
        $this->table($warehouse, 'people', 'crew');
        app(BackupFindings::class)->report($this->fern, self::NOW * 1_000_000);
        self::assertSame(0, Finding::query()->where('source', BackupFindings::SOURCE)->count());
        $this->keep(self::backup('energy', 5));
        app(BackupFindings::class)->report($this->fern, self::NOW * 1_000_000);
        $found = Finding::query()->where('source', BackupFindings::SOURCE)->get();
        self::assertSame(['Schema people has no good backup'], $found->pluck('problem')->all());
        $this->get('/tend/backups')->assertOk()->assertSee('Schema people of Fernhill has no good backup')->assertSee('never');
    }
}
