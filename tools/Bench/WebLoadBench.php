<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Tools\Demo\Team;
use GuzzleHttp\Client;
use GuzzleHttp\Cookie\CookieJar;
use Illuminate\Support\Str;
use RuntimeException;
use Symfony\Component\Process\Process;

/**
 * Many people at once on the pages of the running application with its demo, alone and while six heavy queries run in the
 * workbench.
 */
final class WebLoadBench implements Measurement
{
    private const CONNECTIONS = 64;

    private const SECONDS = 20;

    private const PAGES = [
        '/',
        '/tune/statements',
        '/tune/layout',
        '/tune/jobs',
        '/guard',
        '/ledger',
        '/tune/catalog',
        '/tune/workbench',
        '/tend/clusters',
        '/tune/compare',
    ];

    private const HEAVY = 'SELECT count(*), max(a.value) FROM field.climate_reading a JOIN field.climate_reading b ON a.bay_id = '
        .'b.bay_id WHERE a.value > b.value + 1';

    private const PROBE = 'for ($i = 0; $i < 15; $i++) { $t = microtime(true); $ok = @file_get_contents($argv[1]) !== false; echo $ok ? '
        .'microtime(true) - $t : 99, "\n"; sleep(1); }';

    public function name(): string
    {
        return 'web-load';
    }

    public function run(Closure $say): iterable
    {
        $port = @file_get_contents(base_path('var/run/web.port'));
        if ($port === false) {
            $say('skipped: start the application with its demo first');

            return;
        }
        $base = 'http://127.0.0.1:'.trim($port);
        [$client, $cookies, $token] = $this->signIn($base);
        $cookie = implode('; ', array_map(static fn (array $one): string => "{$one['Name']}={$one['Value']}", $cookies->toArray()));
        $say('pages alone');
        $this->load($base, $cookie, 5);
        $alone = $this->load($base, $cookie, self::SECONDS);
        yield BenchFigure::of('requests a second', $alone['requests'] / self::SECONDS, 'requests/s');
        yield BenchFigure::of('median with '.self::CONNECTIONS.' connections', $alone['p50'] * 1000, 'ms');
        yield BenchFigure::atMost('p95 with '.self::CONNECTIONS.' connections', $alone['p95'], 1.5, 's');
        yield BenchFigure::atMost('errors', $alone['errors'], 0, 'errors');
        $say('pages beside six heavy queries');
        $runs = array_map(static fn (): string => (string) Str::uuid(), range(1, 6));
        try {
            foreach ($runs as $run) {
                $form = [
                    '_token' => $token,
                    'cluster' => 'wren',
                    'schema' => 'field',
                    'sql' => self::HEAVY,
                    'mode' => 'run',
                    'key' => $run,
                    'which' => 'all',
                ];
                $client->post('/tune/workbench/runs', ['form_params' => $form, 'http_errors' => false]);
            }
            $probe = new Process([PHP_BINARY, '-r', self::PROBE, "{$base}/up"], null, null, null, 120);
            $probe->start();
            $beside = $this->load($base, $cookie, self::SECONDS);
            $probe->wait();
        } finally {
            $this->end($client, $token, $runs);
        }
        $up = array_map(floatval(...), Parts::between($probe->getOutput(), "\n"));
        yield BenchFigure::of('p95 of pages beside six heavy queries', $beside['p95'], 's');
        yield BenchFigure::atMost('that p95 to the one alone', $beside['p95'] / max(0.001, $alone['p95']), 1.5, 'times');
        yield BenchFigure::atMost('longest answer of /up under both', max([0.0, ...$up]), 1, 's');
        yield BenchFigure::atMost('errors beside them', $beside['errors'], 0, 'errors');
    }

    /**
     * Leaves nothing behind that the next measurement would run beside.
     *
     * @param  list<string>  $runs
     */
    private function end(Client $client, string $token, array $runs): void
    {
        foreach ($runs as $run) {
            $client->post("/tune/workbench/runs/{$run}/stop", ['form_params' => ['_token' => $token], 'http_errors' => false]);
        }
        foreach ($runs as $run) {
            for ($i = 0; $i < 120 && $client->get("/tune/workbench/runs/{$run}", ['http_errors' => false])->getStatusCode() === 202; $i++) {
                usleep(500_000);
            }
        }
    }

    /**
     * @return array{Client, CookieJar, string}
     */
    private function signIn(string $base): array
    {
        $cookies = new CookieJar();
        $client = new Client(['base_uri' => $base, 'cookies' => $cookies]);
        $token = static fn (string $html): string => preg_match('~name="_token" value="([^"]+)"~', $html, $m) === 1
            ? $m[1]
            : throw new RuntimeException('The page has no form.');
        $client->post('/sign-in', [
            'form_params' => [
                '_token' => $token((string) $client->get('/sign-in')->getBody()),
                'email' => 'idris@brackenfold.example',
                'password' => Team::PASSWORD,
            ],
        ]);

        return [$client, $cookies, $token((string) $client->get('/tune/workbench')->getBody())];
    }

    /**
     * @return array{requests: int, p50: float, p95: float, errors: int} seconds
     */
    private function load(string $base, string $cookie, int $seconds): array
    {
        $script = (string) tempnam(sys_get_temp_dir(), 'wrk');
        $pages = implode(', ', array_map(static fn (string $page): string => "\"{$page}\"", self::PAGES));
        file_put_contents(
            $script,
            <<<LUA
            local pages = {{$pages}}
            local n = 0
            request = function() n = n + 1; return wrk.format("GET", pages[(n % #pages) + 1], {["Cookie"] = os.getenv("LOAD_COOKIE")}) end
            done = function(summary, latency, requests)
                local e = summary.errors
                io.write(string.format("RESULT %d %f %f %d\\n", summary.requests, latency:percentile(50) / 1e6, latency:percentile(95) /
                1e6, e.connect + e.read + e.write + e.status + e.timeout))
            end
            LUA
            ,
        );
        $wrk = new Process(
            ['wrk', '-t2', '-c'.self::CONNECTIONS, "-d{$seconds}s", '--timeout', '20s', '-s', $script, $base],
            null,
            ['LOAD_COOKIE' => $cookie],
            null,
            $seconds + 60,
        );
        $wrk->run();
        unlink($script);
        if (preg_match('~RESULT (\d+) ([\d.]+) ([\d.]+) (\d+)~', $wrk->getOutput(), $m) !== 1) {
            throw new RuntimeException('wrk gave no result: '.$wrk->getOutput().$wrk->getErrorOutput());
        }

        return ['requests' => (int) $m[1], 'p50' => (float) $m[2], 'p95' => (float) $m[3], 'errors' => (int) $m[4]];
    }
}
