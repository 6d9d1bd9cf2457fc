<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Telemetry\Store\Partitions;
use Closure;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Statements\LoadAggregate;
use Fulcrion\Tools\WebServer;
use GuzzleHttp\Client;
use Illuminate\Support\Facades\DB;
use RuntimeException;

/**
 * The Statements page over a large store: ten million executions of five thousand statements in 28 days, whole requests
 * through a web server of its own.
 */
final class StatementsBench implements Measurement
{
    private const EXECUTIONS = 10_000_000;

    private const STATEMENTS = 5_000;

    private const DAYS = 28;

    private const REQUESTS = 50;

    private const WINDOWS = ['last 24 hours', 'last 7 days', 'last 28 days'];

    public function __construct(private readonly Partitions $partitions)
    {
    }

    public function name(): string
    {
        return 'statements';
    }

    public function run(Closure $say): iterable
    {
        Scratch::use();
        $marker = Scratch::folder().'/statements.now';
        $now = is_file($marker) ? (int) file_get_contents($marker) : 0;
        if (
            $now === 0 ||
            ! DB::getSchemaBuilder()->hasTable('load_six_hour') ||
            (int) DB::table('load_day')->sum('executions') !== self::EXECUTIONS
        ) {
            $now = Clock::seconds();
            $now -= ($now % 300) - 120;
            Scratch::fresh();
            $this->fill($now, $say);
            file_put_contents($marker, (string) $now);
        }
        foreach (['load_week', 'load_day', 'load_six_hour', 'load_hour', 'load_five_minute'] as $table) {
            yield BenchFigure::of("rows in {$table}", (float) DB::table($table)->count(), 'rows');
        }
        yield from $this->measure($now, $say);
    }

    /**
     * @return iterable<BenchFigure>
     */
    private function measure(int $now, Closure $say): iterable
    {
        $server = WebServer::start(Scratch::environment() + ['FULCRION_NOW' => gmdate('Y-m-d\TH:i:s\Z', $now)]);
        try {
            $client = new Client(['base_uri' => $server->base, 'cookies' => true, 'http_errors' => true]);
            preg_match('~name="_token" value="([^"]+)"~', (string) $client->get('/sign-in')->getBody(), $token);
            $client->post('/sign-in', [
                'form_params' => ['_token' => $token[1] ?? '', 'email' => 'bench@fulcrion.example', 'password' => 'bench-bench-bench'],
            ]);
            foreach (['time', 'p95'] as $order) {
                foreach (self::WINDOWS as $window) {
                    $say("{$window} by {$order}");
                    $times = [];
                    for ($i = 0; $i < self::REQUESTS + 3; $i++) {
                        $began = hrtime(true);
                        $body = (string) $client
                            ->get('/tune/statements', ['query' => ['cluster' => 'bench', 'window' => $window, 'by' => $order]])
                            ->getBody();
                        $times[] = (hrtime(true) - $began) / 1e6;
                        if (! str_contains($body, 'data-row')) {
                            throw new RuntimeException('The page shows no statements.');
                        }
                    }
                    $times = array_slice($times, 3);
                    sort($times);
                    yield BenchFigure::of("{$window}, by {$order}: median", $times[intdiv(self::REQUESTS, 2)], 'ms');
                    $p95 = $times[(int) ceil(0.95 * self::REQUESTS) - 1];
                    yield $order === 'time'
                        ? BenchFigure::atMost("{$window}, by {$order}: p95", $p95, 150, 'ms')
                        : BenchFigure::of("{$window}, by {$order}: p95", $p95, 'ms');
                }
            }
        } finally {
            $server->stop();
        }
    }

    private function fill(int $now, Closure $say): void
    {
        $cluster = Cluster::query()->create(['slug' => 'bench', 'name' => 'Bench', 'connector' => 'files', 'dialect' => Dialect::Ansi]);
        User::query()->create([
            'name' => 'Bench',
            'email' => 'bench@fulcrion.example',
            'password' => 'bench-bench-bench',
            'role' => Role::Owner,
        ]);
        $workload = new GeneratedLoad(self::STATEMENTS);
        $fingerprinter = new Fingerprinter();
        $today = $now - ($now % 86_400);
        $first = $today - self::DAYS * 86_400;
        $say('statements');
        foreach (array_chunk(range(0, self::STATEMENTS - 1), 500) as $chunk) {
            DB::table('statements')->insert(
                array_map(static function (int $i) use ($fingerprinter, $workload): array {
                    $fingerprint = $fingerprinter->of($workload->text($i));

                    return ['id' => $i + 1, 'fingerprint' => $fingerprint->id, 'kind' => 'read', 'text' => $fingerprint->text];
                }, $chunk),
            );
            DB::table('statement_presence')->insert(
                array_map(
                    static fn (int $i): array => [
                        'cluster_id' => $cluster->id,
                        'statement_id' => $i + 1,
                        'first_us' => $first * 1_000_000,
                        'last_us' => $now * 1_000_000,
                        'facts' => 32767,
                    ],
                    $chunk,
                ),
            );
        }
        $origins = ['boards', 'packhouse', 'agronomy', 'energy_desk', 'forecast_lab', 'loaders'];
        foreach ($origins as $i => $user) {
            DB::table('origins')->insert([
                'id' => $i + 1,
                'digest' => hash('xxh3', $user),
                'database_name' => 'field',
                'user_name' => $user,
                'application' => 'bench',
                'client_host' => 'h',
            ]);
        }
        // Executions of each day by statement, then by hour; five-minute rows only where a measured window ends inside an hour.
        $days = range($first, $today, 86_400);
        $this->partitions->ensure($days);
        $files = [];
        foreach (['day', 'hour', 'five_minute'] as $level) {
            $file = fopen(Scratch::folder()."/{$level}.tsv", 'wb');
            $files[$level] = $file === false ? throw new RuntimeException("{$level}.tsv cannot be written.") : $file;
        }
        $edges = array_map(static fn (int $back): int => $now - $back - (($now - $back) % 3_600), [0, 86_400, 7 * 86_400, 28 * 86_400]);
        $left = self::EXECUTIONS;
        $flow = [];
        foreach ($days as $n => $day) {
            $say('day '.($n + 1).' of '.count($days));
            $share = $n === count($days) - 1 ? $left : intdiv(self::EXECUTIONS, count($days));
            $left -= $share;
            $counts = [];
            for ($i = 0; $i < $share; $i++) {
                $statement = $workload->pick();
                $hour = $workload->number(0, 23);
                $counts[$statement][$hour] = ($counts[$statement][$hour] ?? 0) + 1;
            }
            foreach ($counts as $statement => $hours) {
                $origin = ($statement % count($origins)) + 1;
                $whole = [];
                $sum = 0;
                foreach ($hours as $hour => $count) {
                    $at = $day + $hour * 3_600;
                    $bins = [];
                    for ($i = 0; $i < min($count, 12); $i++) {
                        $bin = LatencySketch::bin($workload->durationUs($statement));
                        $bins[$bin] = ($bins[$bin] ?? 0) + ($i === 0 ? $count - min($count, 12) + 1 : 1);
                    }
                    foreach ($bins as $bin => $times) {
                        $whole[$bin] = ($whole[$bin] ?? 0) + $times;
                    }
                    $sum += $count;
                    $this->row($files['hour'], $cluster->id, $at, $statement, $origin, $count, $bins);
                    $flow[$at][$origin] = ($flow[$at][$origin] ?? 0) + $count;
                    if (in_array($at, $edges, true)) {
                        $this->row($files['five_minute'], $cluster->id, $at + 300 * ($statement % 12), $statement, $origin, $count, $bins);
                    }
                }
                $this->row($files['day'], $cluster->id, $day, $statement, $origin, $sum, $whole);
            }
        }
        foreach ($files as $level => $file) {
            fclose($file);
            $path = Scratch::folder()."/{$level}.tsv";
            $say("loading {$level} summaries");
            DB::connection()
                ->getPdo()
                ->exec(
                    'LOAD DATA LOCAL INFILE '.
                        DB::connection()->getPdo()->quote($path).
                        " INTO TABLE load_{$level} (cluster_id, bucket_at, statement_id, origin_id, ".
                        implode(', ', LoadAggregate::SUMS).
                        ', min_us, max_us, @sketch) SET sketch = UNHEX(@sketch)',
                );
            unlink($path);
        }
        $sums = implode(', ', array_map(static fn (string $name): string => "SUM({$name})", LoadAggregate::SUMS));
        foreach (['six_hour' => ['hour', 21_600], 'week' => ['day', 604_800]] as $level => [$source, $seconds]) {
            $say("{$level} summaries from {$source}s");
            DB::statement(
                "SET STATEMENT group_concat_max_len = 16777216 FOR INSERT INTO load_{$level} (cluster_id, bucket_at, statement_id, "
                    .'origin_id, '.
                    implode(', ', LoadAggregate::SUMS).
                    ", min_us, max_us, sketch)
                SELECT cluster_id, bucket_at - bucket_at % {$seconds}, statement_id, origin_id, {$sums}, MIN(min_us), MAX(max_us), "
                    ."GROUP_CONCAT(sketch SEPARATOR '') FROM load_{$source} GROUP BY 1, 2, 3, 4",
            );
        }
        foreach (array_chunk($flow, 200, true) as $chunk) {
            $rows = [];
            foreach ($chunk as $at => $byOrigin) {
                foreach ($byOrigin as $origin => $count) {
                    $rows[] = [
                        'cluster_id' => $cluster->id,
                        'bucket_at' => $at,
                        'origin_id' => $origin,
                        'kind' => 'read',
                        'executions' => $count,
                        'duration_us' => $count * 40_000,
                        'load_us' => $count * 40_000,
                        'lock_us' => 0,
                        'queued_us' => 0,
                        'cpu_us' => $count * 25_000,
                        'bytes_scanned' => $count * 1_000,
                    ];
                }
            }
            DB::table('load_by_origin_hour')->insert($rows);
            DB::table('load_by_origin_five_minute')->insert($rows);
        }
        foreach (
            ['load_week', 'load_day', 'load_six_hour', 'load_hour', 'load_five_minute', 'load_by_origin_hour',
                'load_by_origin_five_minute'] as $table
        ) {
            DB::statement("ANALYZE TABLE {$table}");
        }
    }

    /**
     * @param  resource  $file
     * @param  array<int, int>  $bins
     */
    private function row($file, int $clusterId, int $at, int $statement, int $origin, int $count, array $bins): void
    {
        $mean = 800 * (1 + ($statement % 97));
        $sums = array_fill_keys(LoadAggregate::SUMS, 0);
        $sums['executions'] = $count;
        $sums['duration_us'] = $sums['load_us'] = $count * $mean;
        $sums['cpu_us'] = intdiv($count * $mean, 2);
        $sums['rows_examined'] = $count * 4_000;
        $sums['rows_returned'] = $count * (1 + ($statement % 50));
        $sums['bytes_scanned'] = $count * 90_000;
        $sums['full_scans'] = ($statement % 2) * $count;
        fwrite(
            $file,
            "{$clusterId}\t{$at}\t".
                ($statement + 1).
                "\t{$origin}\t".
                implode("\t", $sums).
                "\t".
                intdiv($mean, 5).
                "\t".
                $mean * 20 .
                "\t".
                bin2hex(LatencySketch::encode($bins)).
                "\n",
        );
    }
}
