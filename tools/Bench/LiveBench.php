<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use App\Estate\Models\Cluster;
use App\Ledger\Models\Finding;
use Closure;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Tools\Live\PrivateServer;
use Fulcrion\Tools\Live\Troubles;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use RuntimeException;

/**
 * A real server under the load of a public benchmark client, by turns with and without being watched: what watching costs it, how much of
 * what it did is accounted for, and how long ten planted troubles take to be found.
 */
final class LiveBench implements Measurement
{
    private const SECONDS = 30;

    private const TURNS = 3;

    /** Those who look, as the schedule has it. */
    private const EVERY_SECONDS = [
        'telemetry:collect' => 10, 'sessions:watch' => 30, 'diagnostics:check' => 30, 'indexes:audit' => 60,
    ];

    private const PATIENCE_SECONDS = 240;

    private PrivateServer $server;

    /** @var array<string, float> command => when it was run last */
    private array $lastRun = [];

    public function name(): string
    {
        return 'live';
    }

    public function run(Closure $say): iterable
    {
        $sysbench = trim((string) shell_exec('command -v sysbench'));
        if ($sysbench === '' && posix_geteuid() === 0) {
            $say('installing sysbench');
            exec('apt-get install -y --no-install-recommends sysbench 2>&1');
            $sysbench = trim((string) shell_exec('command -v sysbench'));
        }
        if ($sysbench === '') {
            throw new RuntimeException('The load comes of sysbench: install it as root with apt-get install sysbench.');
        }
        Scratch::fresh();
        // For the reachable addresses and the account that watches.
        config(['fulcrion.reachable' => '127.0.0.1', 'cache.default' => 'array']);
        $this->server = PrivateServer::start(
            '--performance-schema=ON',
            '--performance-schema-consumer-events-statements-current=ON',
            '--performance-schema-consumer-events-statements-history-long=ON',
            '--performance-schema-instrument=wait/lock/metadata/sql/mdl=ON',
            '--innodb-buffer-pool-size=256M',
        );
        try {
            $troubles = new Troubles($this->server);
            $troubles->prepare(20_000);
            $this->server->pdo()->exec('CREATE DATABASE sbtest');
            $this->sysbench($sysbench, 'prepare', 0)->wait();
            Cluster::query()->create([
                'slug' => 'orchard', 'name' => 'Orchard', 'role' => 'production', 'connector' => 'mariadb', 'dialect' => Dialect::MariaDb,
                'is_own' => false, 'host' => '127.0.0.1', 'port' => $this->server->port, 'username' => 'watcher', 'secret' => 'glasshouse',
                'interval_seconds' => 10,
            ]);
            yield from $this->cost($sysbench, $say);
            yield from $this->found($troubles, $say);
        } finally {
            $this->server->closeSessions();
            $this->server->remove();
        }
    }

    /**
     * @param  Closure(string): void  $say
     * @return iterable<BenchFigure>
     */
    private function cost(string $sysbench, Closure $say): iterable
    {
        $ratios = [];
        $this->look(true);
        $before = $this->counted();
        $began = self::seconds();
        $watchedSeconds = 0.0;
        for ($turn = 0; $turn < self::TURNS; $turn++) {
            $rates = [];
            foreach ($turn % 2 === 0 ? [false, true] : [true, false] as $isWatched) {
                $load = $this->sysbench($sysbench, 'run', self::SECONDS);
                $since = self::seconds();
                while ($load->isRunning()) {
                    $isWatched ? $this->look(false) : null;
                    usleep(200_000);
                }
                $watchedSeconds += $isWatched ? self::seconds() - $since : 0.0;
                preg_match('~queries:\s+\d+\s+\(([\d.]+) per sec~', $load->output(), $match);
                $rates[(int) $isWatched] = (float) ($match[1] ?? 0);
            }
            $ratios[] = $rates[1] / $rates[0];
            $say(sprintf('turn %d: %.0f queries a second, watched %.0f', $turn + 1, $rates[0], $rates[1]));
        }
        // What came between two readings of the last turn.
        $this->look(true);
        $after = $this->counted();
        $seconds = self::seconds() - $began;
        $ownUs = (float) DB::table('watching')->sum('duration_us');
        $runs = (float) DB::table('load_day')->sum('executions');
        $runsUs = (float) DB::table('load_day')->sum('duration_us');
        $ownRuns = (float) DB::table('watching')->sum('executions');
        sort($ratios);
        yield BenchFigure::of('throughput watched / unwatched, middle of '.self::TURNS, $ratios[intdiv(self::TURNS, 2)], 'times');
        yield BenchFigure::of('lowest and highest apart by', max([0, ...$ratios]) - $ratios[0], 'times');
        yield BenchFigure::atMost('time of the server for being watched', 100 * $ownUs / 1e6 / max(1.0, $watchedSeconds), 1, '% of a core');
        yield BenchFigure::atLeast('executions accounted for', 100 * ($runs + $ownRuns) / ($after[0] - $before[0]), 99, '%');
        yield BenchFigure::atLeast('time accounted for', 100 * ($runsUs + $ownUs) / ($after[1] - $before[1]), 99, '%');
        yield BenchFigure::of('executions of the server', $after[0] - $before[0], 'executions');
        yield BenchFigure::of('in', $seconds, 's');
    }

    /**
     * @param  Closure(string): void  $say
     * @return iterable<BenchFigure>
     */
    private function found(Troubles $troubles, Closure $say): iterable
    {
        $troubles->peace();
        for ($since = self::seconds(); self::seconds() - $since < 40; usleep(200_000)) {
            $this->look(false);
        }
        $waited = [];
        foreach (Troubles::RULES as $trouble => $rule) {
            $planted = self::seconds();
            $troubles->plant($trouble);
            $id = null;
            while ($id === null && self::seconds() - $planted < self::PATIENCE_SECONDS) {
                $this->look(false);
                $id = Finding::waiting()->where('rule', $rule)->value('id');
                usleep(200_000);
            }
            if ($trouble === 'lock contention') {
                $this->server->closeSessions();
                $troubles->again();
            }
            $waited[$trouble] = $id === null ? INF : self::seconds() - $planted;
            $say($trouble.': '.($id === null ? 'not found' : sprintf('found after %.0f s', $waited[$trouble])));
        }
        $inTime = count(array_filter($waited, static fn (float $seconds): bool => $seconds <= 120));
        yield BenchFigure::atLeast('troubles found within two minutes', $inTime, count($waited), 'troubles');
        $known = array_filter($waited, is_finite(...));
        yield BenchFigure::of('longest until one is found', $known === [] ? 0.0 : max($known), 's');
    }

    /** Of a clock that only goes on. */
    private static function seconds(): float
    {
        return hrtime(true) / 1e9;
    }

    private function look(bool $all): void
    {
        foreach (self::EVERY_SECONDS as $command => $seconds) {
            if ($all || self::seconds() - ($this->lastRun[$command] ?? 0.0) >= $seconds) {
                $this->lastRun[$command] = self::seconds();
                Artisan::call($command, ['cluster' => 'orchard']);
            }
        }
    }

    /**
     * @return array{float, float} statements the server has ended, and their time in µs
     */
    private function counted(): array
    {
        $row = $this->server->pdo()
            ->query("SELECT SUM(COUNT_STAR), SUM(SUM_TIMER_WAIT) / 1000000 FROM
                performance_schema.events_statements_summary_global_by_event_name
                WHERE EVENT_NAME LIKE 'statement/sql/%' OR EVENT_NAME = 'statement/com/Execute'")
            ->fetch();

        return $row === false ? [0.0, 0.0] : [(float) $row[0], (float) $row[1]];
    }

    private function sysbench(string $program, string $act, int $seconds): LoadProcess
    {
        return new LoadProcess([
            $program, 'oltp_read_write', '--db-driver=mysql', "--mysql-socket={$this->server->folder}/db.sock",
            '--mysql-user='.(posix_getpwuid(posix_geteuid())['name'] ?? 'root'), '--mysql-db=sbtest', '--tables=4',
            '--table-size=20000', '--threads=2', "--time={$seconds}", '--rate=60', $act,
        ]);
    }
}
