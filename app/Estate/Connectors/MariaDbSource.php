<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Models\Cluster;
use App\Platform\Support\ThrowingPdo;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionOrigin;
use Fulcrion\Core\Telemetry\ExecutionOutcome;
use Fulcrion\Core\Telemetry\ExecutionTimes;
use Fulcrion\Core\Telemetry\ExecutionWork;
use Fulcrion\Core\Telemetry\MessageMask;
use Fulcrion\Core\Telemetry\Status;
use PDO;
use PDOException;
use RuntimeException;

/**
 * A live MariaDB, read through performance_schema and the process list with an account that may do nothing else.
 */
final class MariaDbSource implements StatementSource
{
    private const DEFINITION_LOCKS = 'wait/lock/metadata/sql/mdl';

    /** Somebody waits for a check: with the time-out above it ends in ten seconds whatever the server does. */
    private const CHECK_SECONDS = 4;

    private ?ThrowingPdo $connection = null;

    public function __construct(private readonly Cluster $cluster)
    {
    }

    public function check(): array
    {
        $host = in_array($this->cluster->host, ['127.0.0.1', 'localhost'], true) ? 'localhost' : '%';
        try {
            $pdo = self::watching($this->cluster, self::CHECK_SECONDS);
        } catch (PDOException $exception) {
            return [
                new Missing(
                    'The server cannot be reached: '.self::clean($exception),
                    match (true) {
                        str_contains($exception->getMessage(), '1045') => "CREATE USER '{$this->cluster->username}'@'{$host}' IDENTIFIED "
                            ."BY '...'; or check user and password here",
                        str_contains($exception->getMessage(), '2002') => 'Check host and port, and that the server listens on that '
                            .'address (bind-address).',
                        default => 'Check host, port, user, password and TLS.',
                    },
                ),
            ];
        }
        try {
            return $this->missing($pdo);
        } catch (PDOException $exception) {
            return [
                new Missing(
                    'The server took the connection and then did not answer: '.self::clean($exception),
                    'Check the load of the server, and whatever stands between it and this machine.',
                ),
            ];
        }
    }

    public function digests(): array
    {
        $rows = $this->pdo()
            ->query(
                'SELECT SCHEMA_NAME, DIGEST, DIGEST_TEXT, COUNT_STAR, SUM_TIMER_WAIT, MIN_TIMER_WAIT, MAX_TIMER_WAIT, SUM_LOCK_TIME,
                SUM_ERRORS, SUM_WARNINGS,
                SUM_ROWS_AFFECTED, SUM_ROWS_SENT, SUM_ROWS_EXAMINED, SUM_CREATED_TMP_DISK_TABLES, SUM_CREATED_TMP_TABLES,
                SUM_SELECT_SCAN, SUM_SELECT_FULL_JOIN,
                SUM_SORT_MERGE_PASSES, SUM_NO_INDEX_USED, FIRST_SEEN, LAST_SEEN,
                CAST(UNIX_TIMESTAMP(FIRST_SEEN) * 1000000 AS UNSIGNED) AS born_us, CAST(UNIX_TIMESTAMP(LAST_SEEN) * 1000000 AS UNSIGNED)
                AS last_us
            FROM performance_schema.events_statements_summary_by_digest',
            )
            ->fetchAll(PDO::FETCH_ASSOC);
        $readings = [];
        foreach ($rows as $row) {
            $overflow = $row['DIGEST'] === null;
            $readings[] = new DigestReading(
                self::key($row['SCHEMA_NAME'], $row['DIGEST']),
                (string) $row['SCHEMA_NAME'],
                $overflow ? DigestReading::UNTOLD_FULL : (string) $row['DIGEST_TEXT'],
                self::counters($row, $row['COUNT_STAR'], $row['SUM_TIMER_WAIT']),
                intdiv((int) $row['MIN_TIMER_WAIT'], 1_000_000),
                intdiv((int) $row['MAX_TIMER_WAIT'], 1_000_000),
                (string) $row['FIRST_SEEN'],
                (int) $row['born_us'],
                (int) $row['last_us'],
            );
        }

        return $readings;
    }

    public function prepared(): ?PreparedReading
    {
        $pdo = $this->pdo();
        $sums = 'SUM_LOCK_TIME, SUM_ERRORS, SUM_WARNINGS, SUM_ROWS_AFFECTED, SUM_ROWS_SENT, SUM_ROWS_EXAMINED,
            SUM_CREATED_TMP_DISK_TABLES, SUM_CREATED_TMP_TABLES, SUM_SELECT_SCAN, SUM_SELECT_FULL_JOIN, SUM_SORT_MERGE_PASSES,
            SUM_NO_INDEX_USED';
        try {
            // Statements prepared by PREPARE have a name; their executions are in the digests, as EXECUTE of that name.
            $rows = $pdo
                ->query(
                    "SELECT OWNER_THREAD_ID, STATEMENT_ID, SQL_TEXT, PROCESSLIST_DB, COUNT_EXECUTE, SUM_TIMER_EXECUTE, MIN_TIMER_EXECUTE,
                    MAX_TIMER_EXECUTE, {$sums}, CAST(UNIX_TIMESTAMP(NOW(6)) * 1000000 AS UNSIGNED) AS now_us
                FROM performance_schema.prepared_statements_instances LEFT JOIN performance_schema.threads ON THREAD_ID = OWNER_THREAD_ID
                WHERE STATEMENT_NAME IS NULL AND COUNT_EXECUTE > 0",
                )
                ->fetchAll(PDO::FETCH_ASSOC);
            // After its parts, so that what runs meanwhile is at worst counted for nobody until the next reading.
            $total = $pdo
                ->query(
                    "SELECT COUNT_STAR, SUM_TIMER_WAIT, {$sums} FROM performance_schema.events_statements_summary_global_by_event_name
                WHERE EVENT_NAME = 'statement/com/Execute'",
                )
                ->fetch(PDO::FETCH_ASSOC);
        } catch (PDOException) {
            // Servers before 10.5.2 do not have these tables.
            return null;
        }
        $readings = [];
        foreach ($rows as $row) {
            $readings[] = new DigestReading(
                hash('xxh3', "prepared\0{$row['OWNER_THREAD_ID']}\0{$row['STATEMENT_ID']}\0{$row['SQL_TEXT']}"),
                (string) $row['PROCESSLIST_DB'],
                (string) $row['SQL_TEXT'],
                self::counters($row, $row['COUNT_EXECUTE'], $row['SUM_TIMER_EXECUTE']),
                intdiv((int) $row['MIN_TIMER_EXECUTE'], 1_000_000),
                intdiv((int) $row['MAX_TIMER_EXECUTE'], 1_000_000),
                '',
                (int) $row['now_us'],
                (int) $row['now_us'],
            );
        }

        return $total === false
            ? null
            : new PreparedReading($readings, self::counters($total, $total['COUNT_STAR'], $total['SUM_TIMER_WAIT']));
    }

    public function recent(?int $cursor): RecentReading
    {
        try {
            // Timers count picoseconds from the start of the server, which is known to the second.
            $startUs = (int) $this->pdo()
                ->query(
                    'SELECT CAST((UNIX_TIMESTAMP(NOW(6)) - VARIABLE_VALUE) * 1000000 AS UNSIGNED) FROM information_schema.GLOBAL_STATUS '
                        ."WHERE VARIABLE_NAME = 'UPTIME'",
                )
                ->fetchColumn();
            $lastEnd = (int) $this->pdo()
                ->query('SELECT MAX(TIMER_END) FROM performance_schema.events_statements_history_long')
                ->fetchColumn();
            if ($cursor === null) {
                return new RecentReading([], $lastEnd);
            }
            // After a restart the timers begin anew.
            $from = $lastEnd < $cursor ? 0 : $cursor;
            $rows = $this->pdo()
                ->query(
                    "SELECT h.EVENT_ID, h.THREAD_ID, h.DIGEST, h.SQL_TEXT, h.CURRENT_SCHEMA, h.TIMER_START, h.TIMER_WAIT, h.LOCK_TIME,
                    h.ROWS_SENT, h.ROWS_EXAMINED, h.ROWS_AFFECTED, h.ERRORS, h.MYSQL_ERRNO, h.MESSAGE_TEXT,
                    h.CREATED_TMP_DISK_TABLES, h.CREATED_TMP_TABLES, h.SORT_MERGE_PASSES, h.SELECT_SCAN, h.NO_INDEX_USED, h.WARNINGS
                FROM performance_schema.events_statements_history_long h
                WHERE h.TIMER_END > {$from} AND h.TIMER_END <= {$lastEnd} AND h.SQL_TEXT IS NOT NULL",
                )
                ->fetchAll(PDO::FETCH_ASSOC);
            $clients = $rows === [] ? [] : $this->clients();
        } catch (PDOException) {
            return new RecentReading([], $cursor ?? 0);
        }
        $executions = [];
        foreach ($rows as $row) {
            [$user, $host, $program] = $clients[(int) $row['THREAD_ID']] ?? ['', '', ''];
            if (trim((string) $row['SQL_TEXT']) === '') {
                continue;
            }
            $executions[] = [
                self::key($row['CURRENT_SCHEMA'], $row['DIGEST']),
                new Execution(
                    $startUs + intdiv((int) $row['TIMER_START'], 1_000_000),
                    intdiv((int) $row['TIMER_WAIT'], 1_000_000),
                    (string) $row['SQL_TEXT'],
                    new ExecutionOrigin(
                        database: (string) $row['CURRENT_SCHEMA'],
                        user: $user,
                        application: $program,
                        clientHost: $host,
                    ),
                    new ExecutionOutcome(
                        self::status((int) $row['ERRORS'], (int) $row['MYSQL_ERRNO']),
                        (int) $row['ERRORS'] > 0 ? "error {$row['MYSQL_ERRNO']}: {$row['MESSAGE_TEXT']}" : null,
                        (int) $row['WARNINGS'],
                    ),
                    new ExecutionTimes(intdiv((int) $row['LOCK_TIME'], 1_000_000)),
                    new ExecutionWork(
                        (int) $row['ROWS_SENT'],
                        (int) $row['ROWS_EXAMINED'],
                        (int) $row['ROWS_AFFECTED'],
                        tmpTablesMemory: max(0, (int) $row['CREATED_TMP_TABLES'] - (int) $row['CREATED_TMP_DISK_TABLES']),
                        tmpTablesDisk: (int) $row['CREATED_TMP_DISK_TABLES'],
                        sortMergePasses: (int) $row['SORT_MERGE_PASSES'],
                        fullScan: (int) $row['SELECT_SCAN'] > 0,
                        indexUsed: (int) $row['NO_INDEX_USED'] === 0,
                    ),
                    planRef: "thread {$row['THREAD_ID']}, event {$row['EVENT_ID']}",
                ),
            ];
        }

        return new RecentReading($executions, $lastEnd);
    }

    /**
     * Who is connected. Put together here: the server has no indexes for such a join.
     *
     * @return array<int, array{string, string, string}> user, host and program by thread
     */
    private function clients(): array
    {
        $programs = $this->pdo()
            ->query("SELECT PROCESSLIST_ID, ATTR_VALUE FROM performance_schema.session_connect_attrs WHERE ATTR_NAME = 'program_name'")
            ->fetchAll(PDO::FETCH_KEY_PAIR);
        $clients = [];
        foreach (
            $this->pdo()
                ->query(
                    'SELECT THREAD_ID, PROCESSLIST_ID, PROCESSLIST_USER, PROCESSLIST_HOST FROM performance_schema.threads WHERE '
                        .'PROCESSLIST_ID IS NOT NULL',
                )
                ->fetchAll(PDO::FETCH_NUM) as [$thread, $session, $user, $host]
        ) {
            $clients[(int) $thread] = [(string) $user, (string) $host, (string) ($programs[$session] ?? '')];
        }

        return $clients;
    }

    public function running(): array
    {
        $rows = $this->pdo()
            ->query(
                "SELECT ID, USER, HOST, DB, STATE, TIME_MS, INFO FROM information_schema.PROCESSLIST
            WHERE INFO IS NOT NULL AND COMMAND NOT IN ('Sleep', 'Daemon') AND ID <> CONNECTION_ID() ORDER BY TIME_MS DESC LIMIT 500",
            )
            ->fetchAll(PDO::FETCH_ASSOC);

        return array_map(
            static fn (array $row): RunningStatement => new RunningStatement(
                (int) $row['ID'],
                (string) $row['USER'],
                (string) preg_replace('~:\d+$~', '', (string) $row['HOST']),
                (string) $row['DB'],
                (string) $row['STATE'],
                (int) ((float) $row['TIME_MS'] * 1000),
                (string) $row['INFO'],
            ),
            array_values($rows),
        );
    }

    /** The message without anything that could be a secret. */
    public static function clean(PDOException $exception): string
    {
        return mb_strcut(MessageMask::mask(self::full($exception)), 0, 300);
    }

    /** With the values a server quotes of its tables. */
    public static function full(PDOException $exception): string
    {
        return (string) preg_replace('~^SQLSTATE\[\w+\](?: \[\d+\])?:?\s*~', '', $exception->getMessage());
    }

    /**
     * @return list<Missing>
     *
     * @throws PDOException when the server goes away meanwhile
     */
    private function missing(ThrowingPdo $pdo): array
    {
        // The account the server took us for: one without a name, or of another host, may stand before the one that was meant.
        [$name, $host] = explode('@', (string) $pdo->query('SELECT CURRENT_USER()')->fetchColumn(), 2);
        $who = "'{$name}'@'{$host}'";
        $missing = [];
        if ($name !== (string) $this->cluster->username) {
            $missing[] = new Missing(
                "The server takes {$this->cluster->username} for the account {$who}, which stands before the one that was meant.",
                "DROP USER {$who}, or create '{$this->cluster->username}' for the same host",
            );
        }
        if ($pdo->query('SELECT @@performance_schema')->fetchColumn() !== 1) {
            $missing[] = new Missing(
                'performance_schema is off, so the server counts no statements.',
                'Write it into the configuration of the server and restart it.',
                'performance_schema=ON',
            );
        }
        try {
            $pdo->query('SELECT COUNT(*) FROM performance_schema.events_statements_summary_by_digest');
            array_push($missing, ...self::switchedOff($pdo));
        } catch (PDOException) {
            $missing[] = new Missing('The account may not read performance_schema.', "GRANT SELECT ON performance_schema.* TO {$who}");
        }
        $grants = implode("\n", $pdo->query('SHOW GRANTS')->fetchAll(PDO::FETCH_COLUMN));
        if (preg_match('~GRANT [^\n]*\b(PROCESS|ALL PRIVILEGES)\b[^\n]* ON \*\.\*~', $grants) !== 1) {
            $missing[] = new Missing(
                'The account sees only its own sessions, so what runs and who waits for locks stay empty.',
                "GRANT PROCESS ON *.* TO {$who}",
            );
        }

        return $missing;
    }

    /**
     * @return list<Missing> a consumer or an instrument each
     */
    private static function switchedOff(ThrowingPdo $pdo): array
    {
        $why = [
            'global_instrumentation' => 'so the server counts nothing',
            'statements_digest' => 'so statements are not counted',
            'events_statements_current' => 'so prepared statements are not counted one by one, and what an idle session ran last is not '
                .'known',
            'events_statements_history_long' => 'so single runs are not remembered: quantiles, samples and users stay empty; counts and '
                .'means do not need them',
        ];
        $missing = [];
        $off = $pdo
            ->query("SELECT NAME FROM performance_schema.setup_consumers WHERE ENABLED = 'NO'")
            ->fetchAll(PDO::FETCH_COLUMN);
        foreach (array_intersect_key($why, array_flip($off)) as $consumer => $reason) {
            $missing[] = new Missing(
                "The consumer {$consumer} is off, {$reason}.",
                "UPDATE performance_schema.setup_consumers SET ENABLED = 'YES' WHERE NAME = '{$consumer}'",
                'performance-schema-consumer-'.strtr($consumer, '_', '-').'=ON',
            );
        }
        $locks = self::DEFINITION_LOCKS;
        if ($pdo->query("SELECT ENABLED FROM performance_schema.setup_instruments WHERE NAME = '{$locks}'")->fetchColumn() === 'NO') {
            $missing[] = self::definitionLocksOff(
                'Locks on definitions of tables are not kept, so who holds up an ALTER TABLE is not known.',
            );
        }

        return $missing;
    }

    /** What is not known while the server does not keep locks on definitions of tables. */
    public static function definitionLocksOff(string $problem): Missing
    {
        $locks = self::DEFINITION_LOCKS;

        return new Missing(
            $problem,
            "UPDATE performance_schema.setup_instruments SET ENABLED = 'YES' WHERE NAME = '{$locks}'",
            "performance-schema-instrument='{$locks}=ON'",
        );
    }

    /**
     * @param  array<string, scalar|null>  $row with the sums all tables of statements have
     * @return array<string, int>
     */
    private static function counters(array $row, int|string $count, int|string $timerPs): array
    {
        return [
            'count' => (int) $count,
            // Timers count picoseconds.
            'duration_us' => intdiv((int) $timerPs, 1_000_000),
            'lock_us' => intdiv((int) $row['SUM_LOCK_TIME'], 1_000_000),
            'rows_affected' => (int) $row['SUM_ROWS_AFFECTED'],
            'rows_returned' => (int) $row['SUM_ROWS_SENT'],
            'rows_examined' => (int) $row['SUM_ROWS_EXAMINED'],
            'tmp_disk' => (int) $row['SUM_CREATED_TMP_DISK_TABLES'],
            'tmp_memory' => max(0, (int) $row['SUM_CREATED_TMP_TABLES'] - (int) $row['SUM_CREATED_TMP_DISK_TABLES']),
            'sort_passes' => (int) $row['SUM_SORT_MERGE_PASSES'],
            'full_scans' => (int) $row['SUM_SELECT_SCAN'] + (int) $row['SUM_SELECT_FULL_JOIN'],
            'no_index' => (int) $row['SUM_NO_INDEX_USED'],
            'errors' => (int) $row['SUM_ERRORS'],
            'warnings' => (int) $row['SUM_WARNINGS'],
        ];
    }

    private static function status(int $errors, int $code): Status
    {
        return match (true) {
            $errors === 0 => Status::Ok,
            // Somebody ended it, or max_statement_time did.
            $code === 1317 => Status::Cancelled,
            $code === 1969 => Status::TimedOut,
            default => Status::Error,
        };
    }

    private static function key(?string $schema, ?string $digest): string
    {
        return hash('xxh3', "{$schema}\0{$digest}");
    }

    private function pdo(): ThrowingPdo
    {
        return $this->connection ??= self::watching($this->cluster, 20);
    }

    /** A connection that only watches: what it asks is counted apart from what others do. */
    public static function watching(Cluster $cluster, int $seconds, string $schema = ''): ThrowingPdo
    {
        $pdo = self::connect($cluster, $seconds, $schema);
        $pdo->hears = OwnStatements::note(...);
        OwnStatements::note(self::greeting($seconds));

        return $pdo;
    }

    /**
     * A connection of the account that may do more than watch, for what somebody asked for.
     *
     * @throws PDOException
     */
    public static function acting(Cluster $cluster, int $seconds): ThrowingPdo
    {
        $account = (new Cluster())->forceFill($cluster->getAttributes());
        $account->username = $cluster->ender_username;
        $account->secret = $cluster->ender_secret;

        return self::connect($account, $seconds);
    }

    private static function greeting(int $seconds): string
    {
        return "SET NAMES utf8mb4, time_zone = '+00:00', SESSION max_statement_time = {$seconds}";
    }

    /** A connection on which one statement may take so long and no more, and never two are sent at once. */
    public static function connect(Cluster $cluster, int $seconds, string $schema = ''): ThrowingPdo
    {
        $host = $cluster->is_own ? (string) $cluster->host : self::reach($cluster);
        $options = [
            PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION,
            PDO::MYSQL_ATTR_INIT_COMMAND => self::greeting($seconds),
        ] + ServerReach::options($cluster->tls);

        return ServerReach::within($seconds, static fn (): ThrowingPdo => new ThrowingPdo(
            "mysql:host={$host};port={$cluster->port};charset=utf8mb4".(strpbrk($schema, ';=') === false && $schema !== ''
                ? ";dbname={$schema}"
                : ''),
            (string) $cluster->username,
            (string) $cluster->secret,
            $options,
        ));
    }

    /** @throws PDOException where it leads to this machine or its own services, as for a server that is not there */
    private static function reach(Cluster $cluster): string
    {
        try {
            return ServerReach::host((string) $cluster->host, $cluster->tls);
        } catch (RuntimeException $refused) {
            throw new PDOException($refused->getMessage());
        }
    }
}
