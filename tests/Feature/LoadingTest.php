<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Finding;
use App\Loading\Application\DeliveryBook;
use App\Loading\Application\LoadingFindings;
use App\Loading\Models\LoadTrial;
use App\Platform\Support\Role;
use Fulcrion\Core\Loading\TransferMeasure;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Tools\Demo\DemoDeliveries;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use Illuminate\Testing\TestResponse;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * How deliveries come, what bounds them, and files that are brought for real.
 */
#[Group('today')]
final class LoadingTest extends TestCase
{
    private Cluster $fern;

    protected function setUp(): void
    {
        parent::setUp();
        config(['fulcrion.practice' => sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4))]);
        mkdir((string) config('fulcrion.practice'));
        Warehouse::create(PracticeClusters::root('fernhill'), 'Fernhill', 12, new HardwareProfile());
        $this->fern = Cluster::query()
            ->create(['slug' => 'fernhill', 'name' => 'Fernhill', 'role' => 'production', 'connector' => 'practice',
                'dialect' => Dialect::Ansi])->refresh();
        $this->actingAs($this->person(Role::Owner));
    }

    public function test_the_nightly_delivery_is_found_and_the_healthy_one_is_not(): void
    {
        app(DemoDeliveries::class)->write(time());
        $found = Finding::query()->where('source', LoadingFindings::SOURCE)->get();
        self::assertSame(['delivery nightly'], $found->pluck('object')->all());
        self::assertMatchesRegularExpression(
            '~^The delivery “nightly” uses (9|10|11)% of the link and is bound by what each of its small files takes~',
            (string) $found[0]?->problem,
        );
        $last = app(DeliveryBook::class)->latest($this->fern, DemoDeliveries::NIGHTLY, 1)[0];
        self::assertSame(900, $last->measure->files);
        self::assertGreaterThanOrEqual(2_000_000, $last->leastBytes);
        self::assertLessThanOrEqual(8_000_000, $last->mostBytes);
        self::assertSame(1.0, $last->measure->streams);
        $model = app(DeliveryBook::class)->models($this->fern, [$last->name => $last])[$last->name];
        self::assertEqualsWithDelta(10, $model->saturating(), 1.0);
        $this->get('/tend/loading?cluster=fernhill')->assertOk()->assertSee('small files takes beside its bytes')->assertSee('100 Mbit/s');
        $this->get('/tend/loading?cluster=fernhill&name=prices')->assertOk()->assertSee('of the link; more streams would gain little');
        app(LoadingFindings::class)->report($this->fern, time() + 30 * 86_400);
        self::assertSame(0, Finding::query()->where('source', LoadingFindings::SOURCE)->where('state', 'open')->count(),
            'a month ago is over');
    }

    public function test_a_log_is_read_from_a_file_or_a_program_and_complains_by_line(): void
    {
        $csv = "file,bytes,started,ended\na,1000000,2026-11-15T01:00:00Z,2026-11-15T01:00:02Z\n"
            ."b,x,2026-11-15T01:00:02Z,2026-11-15T01:00:03Z\nc,3000000,2026-11-15T01:00:02Z,2026-11-15T01:00:06Z\n";
        $this->post('/tend/loading/fernhill/deliveries',
            ['name' => 'nightly', 'log' => UploadedFile::fake()->createWithContent('l.csv', $csv)])
            ->assertSessionHas('done', '2 files were read. Left out: Line 3: bytes has to be a whole number.');
        $one = app(DeliveryBook::class)->latest($this->fern, 'nightly', 5);
        self::assertCount(1, $one);
        self::assertEquals(new TransferMeasure(2, 4_000_000, 6.0, 1.0, 1.0, 1_000_000.0), $one[0]->measure);
        $this->post('/tend/loading/fernhill/deliveries', ['name' => 'nightly', 'log' => UploadedFile::fake()->createWithContent('l.csv',
            "file,bytes\na,1\n")])->assertSessionHas('failed');
        $token = $this->fern->createToken('loader', ['metrics:write'])->plainTextToken;
        $this->app['auth']->forgetGuards();
        $json = '{"bytes":5,"started":"2026-11-15T01:00:00Z","ended":"2026-11-15T01:00:01Z"}'."\n{broken\n";
        $send = function (string $body, string $with): TestResponse {
            $this->app['auth']->forgetGuards();

            return $this->call('POST', '/api/deliveries/hourly', [], [], [],
                ['HTTP_AUTHORIZATION' => "Bearer {$with}", 'HTTP_ACCEPT' => 'application/json'], $body);
        };
        $send($json, $token)->assertOk()->assertJson(['files' => 1, 'bytes' => 5, 'seconds' => 1.0]);
        $send($json, $token)->assertOk();
        self::assertSame(1, DB::table('deliveries')->where('name', 'hourly')->count(), 'the same delivery twice is one');
        $send('nothing', $token)->assertStatus(400);
        $send($json, $this->fern->createToken('other', ['executions:write'])->plainTextToken)->assertForbidden();
        self::assertSame(['hourly', 'nightly'], app(DeliveryBook::class)->names($this->fern));
    }

    public function test_what_the_link_lets_through_is_said_and_kept(): void
    {
        $this->post('/tend/loading/fernhill/link', ['name' => 'nightly', 'rate' => 'fast'])->assertSessionHasErrors('rate');
        $this->post('/tend/loading/fernhill/link', ['name' => 'nightly', 'rate' => '100 Mbit/s'])->assertSessionHas('done');
        self::assertSame(12_500_000.0, (float) app(DeliveryBook::class)->link($this->fern, 'nightly')?->bytes_per_second);
        $this->get('/tend/loading?cluster=fernhill')->assertOk()->assertSee('No delivery to Fernhill is known yet');
        Artisan::call('loading:judge');
        $this->get('/tend/loading')->assertOk();
    }

    public function test_files_are_brought_into_the_inbox_for_real_and_taken_away_again(): void
    {
        $this->post('/tend/loading/fernhill/try', ['files' => 6, 'least' => '10 kB', 'most' => '200 kB'])->assertSessionHasNoErrors();
        $trial = LoadTrial::query()->firstOrFail();
        self::assertSame([null, 'done'], [$trial->error, $trial->state]);
        self::assertSame([1, 2, 4], array_column($trial->result ?? [], 'streams'), 'no more streams than files');
        foreach ($trial->result ?? [] as $row) {
            self::assertSame(6, $row['files']);
            self::assertSame(630_000, $row['bytes'], 'sizes in even steps');
            self::assertGreaterThan(0.0, $row['seconds']);
            self::assertLessThan(30.0, $row['seconds']);
        }
        self::assertSame([], File::glob(PracticeClusters::root('fernhill').'/inbox/*'));
        self::assertDirectoryDoesNotExist(storage_path("app/trials/{$trial->id}"));
        $this->get('/tend/loading?cluster=fernhill')->assertOk()->assertSee('Rate by number of streams, tried');
        $this->get("/tend/loading/trials/{$trial->id}", ['HX-Request' => 'true'])->assertOk()->assertSee('data-reloads', false);
        LoadTrial::query()->create(['cluster_id' => $this->fern->id, 'plan' => $trial->plan, 'state' => 'waiting', 'asked_us' => 1,
            'asked_by' => 'x', 'heartbeat_us' => PHP_INT_MAX >> 10]);
        $this->post('/tend/loading/fernhill/try', ['files' => 6, 'least' => '10 kB', 'most' => '200 kB'])->assertSessionHas('failed');
    }

    public function test_files_are_brought_between_folders_that_are_open_to_it_only(): void
    {
        $root = sys_get_temp_dir().'/fulcrion-lake-'.bin2hex(random_bytes(4));
        foreach (['from', 'to', 'empty'] as $name) {
            File::ensureDirectoryExists("{$root}/{$name}");
        }
        config(['fulcrion.lake' => $root]);
        foreach ([3_000, 5_000, 7_000] as $i => $bytes) {
            file_put_contents("{$root}/from/f{$i}", str_repeat('x', $bytes));
        }
        symlink('/etc', "{$root}/elsewhere");
        $try = fn (string $from, string $to) => $this->post('/tend/loading/fernhill/try',
            ['files' => 10, 'least' => '1 MB', 'most' => '1 MB', 'from' => $from, 'to' => $to]);
        foreach (['/etc', "{$root}/../", "{$root}/elsewhere", "{$root}/nowhere"] as $path) {
            $try($path, "{$root}/to")->assertSessionHasErrors('from');
            $try("{$root}/from", $path)->assertSessionHasErrors('to');
        }
        $try("{$root}/from", "{$root}/to")->assertSessionHasNoErrors();
        $trial = LoadTrial::query()->latest('id')->firstOrFail();
        self::assertSame([null, 'done', 15_000], [$trial->error, $trial->state, $trial->result[0]['bytes'] ?? 0]);
        self::assertSame([], File::files("{$root}/to"), 'nothing stays');
        self::assertCount(3, File::files("{$root}/from"), 'and nothing goes');
        $try("{$root}/empty", "{$root}/to");
        self::assertStringContainsString('There is no file in this folder', (string) LoadTrial::query()->latest('id')->firstOrFail()
            ->error);
        File::deleteDirectory($root);
    }

    public function test_a_trial_is_small_and_is_asked_for_clearly(): void
    {
        $try = fn (array $more) => $this->post('/tend/loading/fernhill/try', $more + ['files' => 10, 'least' => '1 MB', 'most' => '2 MB']);
        $try(['files' => 0])->assertSessionHasErrors('files');
        $try(['least' => 'small'])->assertSessionHasErrors('least');
        $try(['least' => '3 MB'])->assertSessionHasErrors(['most' => 'The largest file cannot be smaller than the smallest.']);
        $try(['files' => 400])->assertSessionHasErrors(['most' => 'A trial brings at most 512 MB: fewer or smaller files do.']);
        $files = $this->cluster('barn');
        $this->post('/tend/loading/barn/try', ['files' => 2, 'least' => '1 kB', 'most' => '2 kB'])->assertSessionHas('failed');
        self::assertSame(0, LoadTrial::query()->where('cluster_id', $files->id)->count());
    }
}
