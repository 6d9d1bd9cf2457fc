<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Platform\Support\ThrowingPdo;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Telemetry\SlowLogReader;
use PDO;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/**
 * Logs that a real server wrote, held against what the server itself counted of the same connection.
 */
#[Group('today')]
final class SlowLogTest extends TestCase
{
    private ThrowingPdo $server;

    private string $log = '';

    protected function setUp(): void
    {
        $socket = dirname(__DIR__, 2).'/var/db/db.sock';
        $account = posix_getpwuid(posix_geteuid())['name'] ?? 'root';
        $this->server = new ThrowingPdo("mysql:unix_socket={$socket};charset=utf8mb4", $account, '', [
            PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION,
            PDO::ATTR_EMULATE_PREPARES => true,
        ]);
        $directory = (string) $this->server->query('SELECT @@datadir')->fetchColumn();
        $this->log = $directory.'slow-'.bin2hex(random_bytes(4)).'.log';
        $this->server->exec("SET GLOBAL slow_query_log_file = '{$this->log}'");
        $this->server->exec('SET GLOBAL slow_query_log = 1');
        $this->server->exec('SET SESSION slow_query_log = 1');
    }

    protected function tearDown(): void
    {
        $this->server->exec('SET GLOBAL slow_query_log = 0');
        foreach (['odd name', 'odd; na`me'] as $schema) {
            $this->server->exec('DROP DATABASE IF EXISTS `'.str_replace('`', '``', $schema).'`');
        }
        @unlink($this->log);
    }

    #[TestWith([''])]
    #[TestWith(['innodb'])]
    #[TestWith(['query_plan'])]
    #[TestWith(['query_plan,explain'])]
    #[TestWith(['innodb,query_plan,explain,engine,warnings,full'])]
    public function test_every_statement_is_read_with_the_figures_the_server_counted(string $verbosity): void
    {
        $this->server->exec('CREATE DATABASE `odd name`');
        $this->server->exec('CREATE DATABASE `odd; na``me`');
        $this->server->exec('CREATE TABLE `odd name`.t (id INT PRIMARY KEY AUTO_INCREMENT, word VARCHAR(40))');
        $this->server->exec("SET SESSION log_slow_verbosity = '{$verbosity}'");
        $thread = (int) $this->server
            ->query('SELECT THREAD_ID FROM performance_schema.threads WHERE PROCESSLIST_ID = CONNECTION_ID()')
            ->fetchColumn();
        $this->server->exec('SET SESSION long_query_time = 0');
        $sent = [
            'USE `odd name`',
            "INSERT INTO t (word) VALUES ('a'), ('b'), ('c')",
            'INSERT INTO t (word) SELECT word FROM t',
            'SELECT * FROM t ORDER BY word',
            "SELECT word\nFROM t -- a remark\n# Time: 1\nWHERE id > 1",
            'USE `odd; na``me`',
            'SELECT 1',
            'SET @a = 5',
            'SET timestamp = 1700000000',
            'SET timestamp = DEFAULT',
            "SELECT ';', '#', \"# User@Host: x\"",
            'SELECT COUNT(*) FROM `odd name`.t a JOIN `odd name`.t b',
            'UPDATE `odd name`.t SET word = CONCAT(word, id) WHERE id < 3',
            'DELETE FROM `odd name`.t WHERE id = 1',
        ];
        foreach ($sent as $i => $sql) {
            str_starts_with($sql, 'SELECT') ? $this->server->query($sql)->fetchAll() : $this->server->exec($sql);
            if ($i === 6) {
                // In the middle of the log the server opens it anew, and says so.
                $this->server->exec('FLUSH SLOW LOGS');
            }
        }
        $this->server->exec('SET SESSION long_query_time = 100');
        $counted = $this->server
            ->query(
                'SELECT SQL_TEXT, ROWS_SENT, ROWS_EXAMINED FROM performance_schema.events_statements_history_long WHERE THREAD_ID '
                    ."= {$thread} AND EVENT_NAME LIKE 'statement/sql/%' ORDER BY EVENT_ID",
            )
            ->fetchAll(PDO::FETCH_NUM);
        $counted = array_column(array_filter($counted, static fn (array $row): bool => in_array($row[0], $sent, true)), null, 0);

        $read = $this->read();
        $texts = array_map(static fn (Execution $e): string => $e->sql, $read);
        self::assertSame($sent, array_values(array_intersect($texts, $sent)), 'all of them, in order');
        self::assertSame(
            ['SET SESSION long_query_time = 0', 'FLUSH SLOW LOGS'],
            array_values(
                array_filter(
                    array_diff($texts, $sent),
                    static fn (string $sql): bool => ! str_contains($sql, '= 100') && ! str_contains($sql, 'performance_schema'),
                ),
            ),
            'and nothing besides',
        );
        $totals = [0, 0, 0, 0];
        $in = [];
        foreach ($read as $execution) {
            if (isset($counted[$execution->sql])) {
                $totals[0] += (int) $execution->work->rowsReturned;
                $totals[1] += (int) $execution->work->rowsExamined;
                $totals[2] += (int) $counted[$execution->sql][1];
                $totals[3] += (int) $counted[$execution->sql][2];
                unset($counted[$execution->sql]);
            }
            $in[$execution->sql] = $execution->origin->database;
            if ($execution->sql === 'SET timestamp = DEFAULT') {
                self::assertSame(1_700_000_000_000_000, $execution->startedAtUs, 'the time its connection was set to');
            }
        }
        self::assertSame([$totals[2], $totals[3]], [$totals[0], $totals[1]], 'rows sent and examined');
        self::assertGreaterThan(20, $totals[1]);
        self::assertSame(['odd name', 'odd; na`me', 'odd; na`me'], [$in[$sent[3]], $in['SELECT 1'], $in[$sent[13]]]);
    }

    public function test_a_log_that_was_cut_and_has_commands_of_clients_loses_nothing(): void
    {
        $this->server->exec('SET SESSION long_query_time = 0');
        $this->server->query('SELECT 1 + 1')->fetchAll();
        $this->server->exec('SET SESSION long_query_time = 100');
        $text = (string) file_get_contents($this->log);
        $entry = substr($text, (int) strpos($text, '# Time:'));
        $reader = new SlowLogReader();
        $done = [];
        foreach (
            explode(
                "\n",
                "WHERE rest = 'of an entry';\n".
                    $entry.
                    "# User@Host: a[a] @ localhost []\n# Query_time: 0.000001  Lock_time: 0.000000  Rows_sent: 0  Rows_examined: 0\nSET "
                        ."last_insert_id=5,insert_id=7,timestamp=1795801800;\n# administrator command: Ping;",
            ) as $line
        ) {
            $done[] = $reader->feed("{$line}\n");
        }
        $done = array_values(array_filter([...$done, $reader->end()]));
        self::assertSame("WHERE rest = 'of an entry'", $done[0]['record']['sql']);
        self::assertArrayNotHasKey('started_at', $done[0]['record'], 'without a time it is set aside');
        self::assertSame(
            ['administrator command: Ping', 1_795_801_800.0],
            [$done[count($done) - 1]['record']['sql'], $done[count($done) - 1]['record']['started_at']],
        );
        self::assertContains('SELECT 1 + 1', array_map(static fn (array $one): string => $one['record']['sql'], $done));
    }

    /**
     * @return list<Execution>
     */
    private function read(): array
    {
        $reader = new SlowLogReader();
        $found = [];
        $lines = array_filter((array) file($this->log), is_string(...));
        foreach ([...array_map($reader->feed(...), $lines), $reader->end()] as $done) {
            if ($done !== null) {
                // The statement that set the time of the connection is stamped with it.
                $execution = (new ExecutionReader(PHP_INT_MAX - 86_400_000_001))->record($done['record']);
                self::assertInstanceOf(
                    Execution::class,
                    $execution,
                    "{$done['raw']}: ".($execution instanceof Execution ? '' : "{$execution->field} {$execution->reason}"),
                );
                $found[] = $execution;
            }
        }

        return $found;
    }
}
