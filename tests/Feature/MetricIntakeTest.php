<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Metrics\Store\HostReadings;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\ProcessStore;
use App\Metrics\Store\SeriesBook;
use App\Metrics\Store\ThisHost;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use Fulcrion\Core\Metrics\Points;
use Fulcrion\Tools\Loopback;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use Illuminate\Testing\TestResponse;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Process\Process;
use Tests\TestCase;

/**
 * Metrics that are sent and asked for: OTLP, OpenMetrics and the agent.
 */
final class MetricIntakeTest extends TestCase
{
    private const NOW = 1_796_016_400;

    private const DATA = __DIR__.'/../Core/Metrics/data';

    private Cluster $cluster;

    private string $token;

    /** @var list<Process> */
    private array $processes = [];

    private string $folder;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        $this->cluster = $this->cluster();
        $this->token = $this->cluster->createToken('agent', ['metrics:write'])->plainTextToken;
        $this->folder = sys_get_temp_dir().'/fulcrion-agent-'.bin2hex(random_bytes(4));
        File::makeDirectory($this->folder);
    }

    protected function tearDown(): void
    {
        array_map(static fn (Process $one) => $one->stop(0), $this->processes);
        File::deleteDirectory($this->folder);
        Carbon::setTestNow();
        parent::tearDown();
    }

    /**
     * @return TestResponse<Response>
     */
    private function send(string $path, string $body, ?string $token = null, string $type = 'application/json'): TestResponse
    {
        $this->app['auth']->forgetGuards();

        return $this->call('POST', $path, [], [], [], [
            'CONTENT_TYPE' => $type, 'HTTP_AUTHORIZATION' => 'Bearer '.($token ?? $this->token), 'HTTP_ACCEPT' => 'application/json',
        ], $body);
    }

    private function points(string $host, string $name): Points
    {
        $series = app(SeriesBook::class)->of($this->cluster->id, $host, [$name]);

        return $series === [] ? new Points([], [])
            : app(PointStore::class)->points([$series[0]], self::NOW - 90_000, self::NOW + 90_000)[$series[0]->id] ?? new Points([], []);
    }

    public function test_otlp_of_the_official_library_is_taken_and_shown(): void
    {
        $json = (string) file_get_contents(self::DATA.'/otlp-cumulative.json');
        $this->send('/api/v1/metrics', $json)->assertOk()->assertExactJson([]);
        self::assertSame([1_200.0], $this->points('glass-12', 'gateway.readings')->values);
        self::assertSame([21.375], $this->points('glass-12', 'gateway.temperature')->values);
        // Sent again it is the same.
        $before = DB::table('metric_frames')->value('body');
        $this->send('/api/v1/metrics', (string) gzencode($json))->assertOk();
        self::assertSame([1, $before], [DB::table('metric_frames')->count(), DB::table('metric_frames')->value('body')]);
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/tend/sources')->assertOk()->assertSee('glass-12')->assertSee('OTLP')->assertSee('All hosts are heard of')
            ->assertSee('Engineers add addresses');
        $this->get('/tend/hosts?host=glass-12')->assertOk()->assertSee('gateway.temperature')->assertSee('21.4');
    }

    public function test_what_was_added_is_added_up_and_never_twice(): void
    {
        $json = (string) file_get_contents(self::DATA.'/otlp-delta.json');
        $this->send('/api/v1/metrics', $json)->assertOk();
        $later = (string) preg_replace_callback('~"timeUnixNano":"(\d+)"~', static fn (array $m): string => '"timeUnixNano":"'
            .((int) $m[1] + 10_000_000_000).'"', $json);
        $this->send('/api/v1/metrics', $later)->assertOk();
        $this->send('/api/v1/metrics', $json)->assertOk();
        $this->send('/api/v1/metrics', $later)->assertOk();
        self::assertSame([1_200.0, 2_400.0], $this->points('glass-12', 'gateway.readings')->values);
        self::assertSame([21.375, 21.375], $this->points('glass-12', 'gateway.temperature')->values, 'a gauge is what it is');
    }

    public function test_who_may_not_and_what_cannot_be_read_is_refused_in_words(): void
    {
        $other = $this->cluster->createToken('other', ['executions:write'])->plainTextToken;
        $this->send('/api/v1/metrics', '{}', $other)->assertForbidden()->assertJson(['message' => 'This token may not send metrics.']);
        $this->send('/api/hosts', '{}', $other)->assertForbidden();
        $this->send('/api/v1/metrics', '{}', 'nonsense')->assertUnauthorized();
        $this->send('/api/v1/metrics', '{}')->assertStatus(400)->assertJsonFragment(['message' => 'The body is no JSON of OTLP metrics: it '
            .'has no resourceMetrics.']);
        $this->send('/api/v1/metrics', 'x', null, 'application/x-protobuf')->assertStatus(415);
        $this->send('/api/v1/metrics', substr((string) gzencode('{"resourceMetrics":[]}'), 0, 12))->assertStatus(413);
        $this->send('/api/v1/metrics', (string) gzencode(str_repeat(' ', 17_000_000)))->assertStatus(413);
        $this->send('/api/hosts', '[]')->assertStatus(400);
        self::assertSame(0, DB::table('metric_series')->count());
    }

    /**
     * @param  list<string>  $labels a point each
     */
    private static function otlp(string $host, int $atMs, string $name, array $labels, float $value = 1.0): string
    {
        return (string) json_encode(['resourceMetrics' => [[
            'resource' => ['attributes' => [['key' => 'host.name', 'value' => ['stringValue' => $host]]]],
            'scopeMetrics' => [['metrics' => [['name' => $name, 'gauge' => ['dataPoints' => array_map(static fn (string $label): array => [
                'attributes' => [['key' => 'request', 'value' => ['stringValue' => $label]]], 'asDouble' => $value,
                'timeUnixNano' => "{$atMs}000000",
            ], $labels)]]]]],
        ]]]);
    }

    public function test_a_label_with_another_value_each_time_is_refused_and_nothing_else_is_lost(): void
    {
        $ms = self::NOW * 1_000;
        $labels = array_map(strval(...), range(1, 2_500));
        $answer = $this->send('/api/v1/metrics', self::otlp('noisy', $ms, 'm', $labels))->assertOk();
        self::assertSame('500', $answer->json('partialSuccess.rejectedDataPoints'));
        self::assertStringContainsString('beyond the 2 000 a host may have: a label has another value each time',
            str_replace("\u{202F}", ' ', (string) $answer->json('partialSuccess.errorMessage')));
        self::assertSame(2_000, DB::table('metric_series')->where('host', 'noisy')->count());
        $this->send('/api/v1/metrics', self::otlp('noisy', $ms + 10_000, 'm', ['1', '2', 'new']))->assertOk()
            ->assertJsonPath('partialSuccess.rejectedDataPoints', '1');
        $this->send('/api/v1/metrics', self::otlp('quiet', $ms, 'm', ['1']))->assertOk()->assertExactJson([]);
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/tend/sources')->assertSee('Not all that noisy sends can be taken')->assertSee('another value each time');
    }

    public function test_moments_that_cannot_be_are_refused_and_two_senders_of_one_moment_are_both_heard(): void
    {
        $ms = self::NOW * 1_000;
        $this->send('/api/v1/metrics', self::otlp('h', $ms + 3_600_000, 'm', ['1']))->assertOk()
            ->assertJsonPath('partialSuccess.errorMessage', '1 values are of a time that has not been yet: the clock of who sends them '
                .'is ahead');
        $this->send('/api/v1/metrics', self::otlp('h', $ms - 400 * 86_400_000, 'm', ['1']))->assertOk()
            ->assertJsonPath('partialSuccess.rejectedDataPoints', '1');
        $this->send('/api/v1/metrics', self::otlp('h', $ms, 'a', ['1'], 3.0));
        $this->send('/api/v1/metrics', self::otlp('h', $ms, 'b', ['1'], 4.0));
        $this->send('/api/v1/metrics', self::otlp('h', $ms, 'b', ['1'], 9.0));
        self::assertSame([[3.0], [4.0]], [$this->points('h', 'a')->values, $this->points('h', 'b')->values]);
        // A name of digits, and none at all.
        $this->send('/api/v1/metrics', self::otlp('007', $ms, 'a', ['1']))->assertExactJson([]);
        $this->send('/api/v1/metrics', str_replace('host.name', 'other', self::otlp('x', $ms, 'a', ['1'])))->assertExactJson([]);
        self::assertSame(['007', 'Fernhill', 'h'], DB::table('metric_sources')->orderBy('host')->pluck('host')->all());
    }

    /** A listener that answers a scrape as a function of the path says, and keeps what is posted. */
    private function listener(string $script, ?int $port = null): int
    {
        $port ??= Loopback::freePort();
        file_put_contents("{$this->folder}/router.php", "<?php {$script}");
        $process = new Process([PHP_BINARY, '-S', "127.0.0.1:{$port}", "{$this->folder}/router.php"], $this->folder);
        $process->start();
        $this->processes[] = $process;
        for ($i = 0; $i < 100 && @fsockopen('127.0.0.1', $port) === false; $i++) {
            usleep(50_000);
        }

        return $port;
    }

    public function test_an_address_is_asked_and_what_it_does_wrong_is_told(): void
    {
        copy(self::DATA.'/openmetrics.txt', "{$this->folder}/metrics.txt");
        $port = $this->listener(<<<'PHP'
            $path = parse_url($_SERVER['REQUEST_URI'], PHP_URL_PATH);
            if ($path === '/metrics') {
                header('Content-Type: application/openmetrics-text; version=1.0.0; charset=utf-8');
                readfile(__DIR__.'/metrics.txt');
            } elseif ($path === '/cut') {
                header('Content-Type: application/openmetrics-text; version=1.0.0');
                echo "a 1\nb 2\n";
            } elseif ($path === '/away') {
                header('Location: http://169.254.169.254/latest', true, 302);
            } elseif ($path === '/huge') {
                for ($i = 0; $i < 110; $i++) {
                    echo str_repeat("a{x=\"{$i}\"} 1\n", 80_000);
                    flush();
                }
            } elseif ($path === '/hangs') {
                sleep(30);
            } elseif ($path === '/page') {
                echo '<html>no metric</html>';
            } else {
                http_response_code(500);
            }
            PHP);
        $this->actingAs($this->person(Role::Engineer));
        $form = ['cluster' => 'fernhill', 'host' => 'glass-12', 'address' => "http://127.0.0.1:{$port}/metrics", 'seconds' => 30];
        config(['fulcrion.reachable' => '']);
        $this->post('/tend/sources', $form)->assertSessionHasErrors('address');
        $this->post('/tend/sources', ['address' => 'http://169.254.169.254/'] + $form)->assertSessionHasErrors('address');
        $this->post('/tend/sources', ['address' => 'http://a:b@fern.example/'] + $form)->assertSessionHasErrors('address');
        self::assertSame(0, DB::table('metric_scrapes')->count());
        config(['fulcrion.reachable' => '127.0.0.1']);
        $this->post('/tend/sources', $form)->assertSessionHas('done', 'glass-12 is read. Its first values are here.');
        self::assertSame([1.75], $this->points('glass-12', 'water_level_metres')->values);
        $this->get('/tend/hosts?host=glass-12')->assertOk()->assertSee('water_level_metres')->assertSee('1.75');
        foreach ([
            'cut' => 'was cut off', 'away' => 'answered 302, and redirects are not followed', 'huge' => 'more than 10 MiB', 'page' =>
            'No metric stands in its answer', 'none' => 'answered 500',
        ] as $path => $complaint) {
            $this->post('/tend/sources', ['host' => $path, 'address' => "http://127.0.0.1:{$port}/{$path}"] + $form)->assertRedirect();
            self::assertStringContainsString($complaint, (string) DB::table('metric_scrapes')->where('host', $path)->value('last_error'));
            self::assertSame(0, DB::table('metric_series')->where('host', $path)->count());
        }
        $this->get('/tend/sources')->assertSee('redirects are not followed');
        // By the schedule each when it is due; one that failed does not keep the others.
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 31));
        Artisan::call('metrics:scrape');
        self::assertStringContainsString('6 addresses were asked', Artisan::output());
        Artisan::call('metrics:scrape');
        self::assertStringContainsString('0 addresses were asked', Artisan::output());
        self::assertCount(2, $this->points('glass-12', 'water_level_metres')->values);
        // An address that leads elsewhere by now is not called.
        config(['fulcrion.reachable' => '']);
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 62));
        Artisan::call('metrics:scrape');
        self::assertStringContainsString('FULCRION_REACHABLE', (string) DB::table('metric_scrapes')->where('host', 'glass-12')
            ->value('last_error'));
        $id = (int) DB::table('metric_scrapes')->where('host', 'cut')->value('id');
        $this->post("/tend/sources/{$id}/remove")->assertRedirect('/tend/sources');
        $this->post("/tend/sources/{$id}/remove")->assertNotFound();
        self::assertSame(5, DB::table('metric_scrapes')->count());
    }

    /**
     * @return array{int, string} how the agent ended, and what it said
     */
    private function agent(string ...$options): array
    {
        file_put_contents("{$this->folder}/token", "{$this->token}\n");
        $process = new Process([PHP_BINARY, base_path('bin/agent'), "--token-file={$this->folder}/token", "--spool={$this->folder}/spool",
            '--host=fern-99', ...$options]);
        $process->run();

        return [(int) $process->getExitCode(), $process->getErrorOutput()];
    }

    public function test_the_agent_keeps_what_it_cannot_send_and_loses_nothing_of_an_hour(): void
    {
        Carbon::setTestNow();
        $port = Loopback::freePort();
        // Nobody answers, and an hour of readings waits already.
        [$code, $said] = $this->agent("--url=http://127.0.0.1:{$port}", '--once');
        self::assertSame(1, $code);
        self::assertStringContainsString('does not answer; readings are kept', $said);
        $spool = File::glob("{$this->folder}/spool/*.jsonl");
        self::assertCount(1, $spool);
        $reading = (array) json_decode(trim((string) file_get_contents($spool[0])), true);
        $hour = gmdate('YmdH', time() - 3_600);
        $lines = '';
        $first = intdiv(time() - 3_600, 3_600) * 3_600;
        for ($i = 0; $i < 360; $i++) {
            $lines .= json_encode(['at_ms' => ($first + 10 * $i) * 1_000] + $reading)."\n";
        }
        file_put_contents("{$this->folder}/spool/{$hour}.jsonl", $lines);
        // What is older than a day goes.
        file_put_contents("{$this->folder}/spool/".gmdate('YmdH', time() - 90_000).'.jsonl', $lines);
        // The server is back, and fails once on the way.
        $this->listener(<<<'PHP'
            $n = count(glob(__DIR__.'/post-*')) + 1;
            file_put_contents(sprintf('%s/post-%03d', __DIR__, $n), file_get_contents('php://input'));
            file_put_contents(__DIR__.'/token-seen', $_SERVER['HTTP_AUTHORIZATION'] ?? '');
            http_response_code($n === 2 ? 503 : 200);
            echo '{"taken":1,"complaints":[]}';
            PHP, $port);
        self::assertSame(1, $this->agent("--url=http://127.0.0.1:{$port}", '--once')[0], 'it stopped at the failure');
        self::assertSame(0, $this->agent("--url=http://127.0.0.1:{$port}", '--every=1', '--count=2')[0]);
        self::assertSame("Bearer {$this->token}", file_get_contents("{$this->folder}/token-seen"));
        $sent = $taken = 0;
        foreach (File::glob("{$this->folder}/post-*") as $i => $file) {
            $body = (string) file_get_contents($file);
            $sent += count((array) (json_decode((string) gzdecode($body), true)['readings'] ?? []));
            // What the failing answer did not say was taken all the same comes a second time.
            $answer = $this->send('/api/hosts', $body)->assertOk();
            $taken += (int) $answer->json('taken');
            self::assertSame([], $answer->json('complaints'));
        }
        self::assertSame(360 + 4 + 120, $sent);
        $points = $this->pointsOf('fern-99');
        self::assertSame(364, $points->count());
        self::assertSame(range($first * 1_000, ($first + 3_590) * 1_000, 10_000), array_slice($points->timesMs, 0, 360));
        self::assertSame([], File::glob("{$this->folder}/spool/{$hour}.jsonl"));
        self::assertGreaterThan(364 * 10, $taken);
        $load = app(HostReadings::class)->of($this->cluster->id, 'fern-99', $first, time() + 5, 45)['load'];
        self::assertNotNull($load->most($first, $first + 3_600, 3_600)[0]);
    }

    private function pointsOf(string $host): Points
    {
        $series = app(SeriesBook::class)->of($this->cluster->id, $host, ['system.memory.limit']);

        return $series === [] ? new Points([], [])
            : app(PointStore::class)->points($series, time() - 9_000, time() + 60)[$series[0]->id] ?? new Points([], []);
    }

    public function test_a_clock_that_is_an_hour_off_is_put_right_and_told(): void
    {
        $off = self::NOW * 1_000 + 3_600_000;
        $body = (string) json_encode(['host' => 'fern-05', 'sent_ms' => $off, 'readings' => [
            ['at_ms' => $off - 5_000, 'files' => ['loadavg' => '0.70 0.10 0.10 1/1 1', 'meminfo' => "MemTotal: 10 kB\nMemAvailable: 4 kB"]],
        ]]);
        $this->send('/api/hosts', $body)->assertOk()->assertJson(['taken' => 3, 'refused' => 0]);
        self::assertSame([self::NOW * 1_000 - 5_000], $this->points('fern-05', 'system.cpu.load_average.1m')->timesMs);
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/tend/sources')->assertSee('The clock of fern-05 is off')->assertSee('1 h ahead');
        // Half an hour later it has not been heard of.
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 1_800));
        self::assertSame(self::NOW + 1_800, Clock::seconds());
        $this->get('/tend/sources')->assertSee('fern-05 has not been heard of for 30 min');
    }

    public function test_two_agents_do_not_send_from_one_folder_and_a_reading_that_is_half_there_waits(): void
    {
        File::makeDirectory("{$this->folder}/spool");
        $lock = fopen("{$this->folder}/spool/lock", 'c');
        self::assertNotFalse($lock);
        self::assertTrue(flock($lock, LOCK_EX | LOCK_NB));
        [$code, $said] = $this->agent('--url=http://127.0.0.1:9', '--once');
        self::assertSame(1, $code);
        self::assertStringContainsString('another agent works in', $said);
        fclose($lock);
        $port = $this->listener(<<<'PHP'
            $n = count(glob(__DIR__.'/post-*')) + 1;
            file_put_contents(sprintf('%s/post-%03d', __DIR__, $n), gzdecode(file_get_contents('php://input')));
            http_response_code(is_file(__DIR__.'/status') ? (int) file_get_contents(__DIR__.'/status') : 200);
            echo '{"complaints":["2 values of h belong to series beyond what a host may have"]}';
            PHP);
        // The one before was killed while it wrote: the half line is not sent, and what comes after it is.
        $hour = gmdate('YmdH', time() - 3_600);
        $whole = '{"at_ms":1,"files":{"loadavg":"0.1 0.1 0.1 1/1 1"}}';
        file_put_contents("{$this->folder}/spool/{$hour}.jsonl", "{$whole}\n".'{"at_ms":2,"fi');
        [$code, $said] = $this->agent("--url=http://127.0.0.1:{$port}", '--once');
        self::assertSame(0, $code, $said);
        self::assertStringContainsString('beyond what a host may have', $said, 'what the server says is not kept from anybody');
        $sent = [];
        foreach (File::glob("{$this->folder}/post-*") as $file) {
            $body = (array) json_decode((string) file_get_contents($file), true);
            self::assertSame('fern-99', $body['host']);
            self::assertEqualsWithDelta(microtime(true) * 1_000, $body['sent_ms'], 60_000);
            array_push($sent, ...array_column($body['readings'], 'at_ms'));
        }
        self::assertCount(2, $sent);
        self::assertSame(1, $sent[0]);
        // What is refused as such is not sent for ever; a server that is down is asked again.
        foreach ([400 => 0, 413 => 0, 401 => 1, 500 => 1] as $status => $expected) {
            file_put_contents("{$this->folder}/status", (string) $status);
            [$code, $said] = $this->agent("--url=http://127.0.0.1:{$port}", '--once');
            self::assertSame($expected, $code, "{$status}: {$said}");
            self::assertStringContainsString($expected === 0 ? 'readings were refused' : "answered {$status}", $said);
        }
        file_put_contents("{$this->folder}/status", '200');
        array_map(unlink(...), File::glob("{$this->folder}/post-*"));
        self::assertSame(0, $this->agent("--url=http://127.0.0.1:{$port}", '--once')[0]);
        // The two that could not be sent, and its own.
        $body = (array) json_decode((string) file_get_contents(File::glob("{$this->folder}/post-*")[0]), true);
        self::assertCount(3, $body['readings']);
    }

    public function test_what_the_agent_sends_of_proc_is_what_this_host_reads_of_itself(): void
    {
        $port = $this->listener('file_put_contents(__DIR__."/post", gzdecode(file_get_contents("php://input"))); echo "{}";');
        $this->agent("--url=http://127.0.0.1:{$port}", '--once', '--mounts=/,/nowhere');
        $this->send('/api/hosts', (string) file_get_contents("{$this->folder}/post"))->assertOk();
        $names = static fn (string $host): array => DB::table('metric_series')->where('host', $host)->orderBy('name')->orderBy('labels')
            ->get(['name', 'labels', 'unit', 'is_counter'])->map(static fn ($row): array => (array) $row)->all();
        $own = app(ThisHost::class);
        app(PointStore::class)->take($this->cluster->id, 'own', self::NOW * 1_000, $own->read());
        self::assertNotEmpty($names('own'));
        self::assertSame($names('own'), $names('fern-99'));
        self::assertSame(0, DB::table('host_processes')->count(), 'of a first reading nobody knows who was busy');
        // The next one tells who had the processors since.
        Carbon::setTestNow();
        $this->agent("--url=http://127.0.0.1:{$port}", '--every=1', '--count=3');
        $this->send('/api/hosts', (string) file_get_contents("{$this->folder}/post"))->assertOk();
        $row = DB::table('host_processes')->where('host', 'fern-99')->first();
        self::assertNotNull($row);
        self::assertEqualsWithDelta(time(), (int) $row->at, 120);
        $busy = app(ProcessStore::class)->at($this->cluster->id, 'fern-99', time());
        self::assertNotEmpty($busy);
        self::assertLessThanOrEqual(10, count($busy));
        self::assertGreaterThan(0.0, $busy[0]->processors);
    }

    public function test_an_agent_without_its_token_or_folder_says_so(): void
    {
        [$code, $said] = $this->agent('--url=http://127.0.0.1:9', '--once', '--token-file=/nowhere/token');
        self::assertSame(1, $code);
        self::assertStringContainsString('the token cannot be read', $said);
        $process = new Process([PHP_BINARY, base_path('bin/agent'), '--once']);
        self::assertSame(2, $process->run());
        self::assertStringContainsString('Usage: agent', $process->getErrorOutput());
        touch("{$this->folder}/file");
        [, $said] = $this->agent('--url=http://127.0.0.1:9', '--once', "--spool={$this->folder}/file/spool");
        self::assertStringContainsString('cannot be made', $said);
    }
}
