<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Models\Cluster;
use App\Platform\Support\ThrowingPdo;
use Fulcrion\Core\Sessions\Deadlock;
use Fulcrion\Core\Sessions\DefinitionLock;
use Fulcrion\Core\Sessions\LockWait;
use PDO;
use PDOException;

/**
 * Sessions of a MariaDB, read by the watcher's account and stopped by another one.
 */
final class MariaDbSessions implements SessionSource
{
    private const SECONDS = 5;

    private const DEFINITION = 'Waiting for table metadata lock';

    private ?ThrowingPdo $connection = null;

    public function __construct(private readonly Cluster $cluster)
    {
    }

    public function waiting(): LockReading
    {
        $waits = $this->rowWaits();
        [$definitions, $gaps] = $this->definitionWaits();
        array_push($waits, ...$definitions);
        $wanted = [];
        foreach ($waits as $wait) {
            $wanted[$wait->waiting] = $wanted[$wait->blocking] = true;
        }

        return new LockReading($this->sessions(array_keys($wanted)), $waits, $gaps);
    }

    public function deadlock(): ?Deadlock
    {
        $row = $this->pdo()->query('SHOW ENGINE INNODB STATUS')->fetch(PDO::FETCH_NUM);

        return Deadlock::last((string) ($row[2] ?? ''));
    }

    public function canStop(): bool
    {
        return (string) $this->cluster->ender_username !== '';
    }

    public function cancel(int $session): void
    {
        $this->kill("KILL QUERY {$session}");
    }

    public function end(int $session): void
    {
        $this->kill("KILL CONNECTION {$session}");
    }

    private function kill(string $sql): void
    {
        if (! $this->canStop()) {
            throw new SourceError('No account is set that may stop sessions. Set one on the page of the cluster.');
        }
        try {
            MariaDbSource::acting($this->cluster, self::SECONDS)->exec($sql);
        } catch (PDOException $exception) {
            throw new SourceError(
                str_contains($exception->getMessage(), '1094')
                    ? 'The session has ended meanwhile.'
                    : MariaDbSource::clean($exception),
            );
        }
    }

    /**
     * @return list<LockWait>
     */
    private function rowWaits(): array
    {
        $rows = $this->pdo()
            ->query(
                'SELECT r.trx_mysql_thread_id AS waiting, b.trx_mysql_thread_id AS blocking, l.lock_table, l.lock_index, l.lock_type,
                    GREATEST(0, TIMESTAMPDIFF(MICROSECOND, r.trx_wait_started, NOW(6))) AS waited_us
                FROM information_schema.INNODB_LOCK_WAITS w
                JOIN information_schema.INNODB_TRX r ON r.trx_id = w.requesting_trx_id
                JOIN information_schema.INNODB_TRX b ON b.trx_id = w.blocking_trx_id
                LEFT JOIN information_schema.INNODB_LOCKS l ON l.lock_id = w.requested_lock_id',
            )
            ->fetchAll(PDO::FETCH_ASSOC);

        return array_map(static fn (array $row): LockWait => new LockWait(
            (int) $row['waiting'],
            (int) $row['blocking'],
            self::table((string) $row['lock_table']),
            $row['lock_type'] === 'TABLE' ? 'the table' : "rows by {$row['lock_index']}",
            (int) $row['waited_us'],
        ), array_values($rows));
    }

    /**
     * @return array{list<LockWait>, list<Missing>} waits, and what is not told of them
     */
    private function definitionWaits(): array
    {
        $waiting = (int) $this->pdo()
            ->query("SELECT COUNT(*) FROM information_schema.PROCESSLIST WHERE STATE = '".self::DEFINITION."'")
            ->fetchColumn();
        if ($waiting === 0) {
            return [[], []];
        }
        $gap = MariaDbSource::definitionLocksOff(
            ($waiting === 1 ? 'One session waits' : "{$waiting} sessions wait").
                ' for the definition of a table, and the server does not tell who holds it.',
        );
        try {
            $rows = $this->pdo()
                ->query(
                    "SELECT m.OBJECT_SCHEMA, m.OBJECT_NAME, m.LOCK_TYPE, m.LOCK_STATUS, p.ID, p.TIME_MS
                    FROM performance_schema.metadata_locks m
                    JOIN performance_schema.threads t ON t.THREAD_ID = m.OWNER_THREAD_ID
                    JOIN information_schema.PROCESSLIST p ON p.ID = t.PROCESSLIST_ID
                    WHERE m.OBJECT_TYPE = 'TABLE' AND m.OBJECT_SCHEMA NOT IN ('performance_schema', 'information_schema')",
                )
                ->fetchAll(PDO::FETCH_ASSOC);
        } catch (PDOException) {
            return [[], [$gap]];
        }
        $waits = DefinitionLock::waits(array_map(static fn (array $row): DefinitionLock => new DefinitionLock(
            (int) $row['ID'],
            "{$row['OBJECT_SCHEMA']}.{$row['OBJECT_NAME']}",
            (string) $row['LOCK_TYPE'],
            $row['LOCK_STATUS'] === 'GRANTED',
            (int) ((float) $row['TIME_MS'] * 1000),
        ), array_values($rows)));

        return [$waits, $waits === [] ? [$gap] : []];
    }

    /**
     * @param  list<int>  $ids
     * @return array<int, ServerSession>
     */
    private function sessions(array $ids): array
    {
        if ($ids === []) {
            return [];
        }
        $list = implode(', ', $ids);
        $rows = $this->pdo()
            ->query(
                "SELECT p.ID, p.USER, p.HOST, p.DB, p.COMMAND, p.STATE, p.TIME_MS, p.INFO, x.trx_rows_locked, x.trx_rows_modified,
                    TIMESTAMPDIFF(MICROSECOND, x.trx_started, NOW(6)) AS open_us
                FROM information_schema.PROCESSLIST p LEFT JOIN information_schema.INNODB_TRX x ON x.trx_mysql_thread_id = p.ID
                WHERE p.ID IN ({$list})",
            )
            ->fetchAll(PDO::FETCH_ASSOC);
        $last = $this->lastStatements($list);
        $sessions = [];
        foreach ($rows as $row) {
            $id = (int) $row['ID'];
            $sessions[$id] = new ServerSession(
                $id,
                (string) $row['USER'],
                (string) preg_replace('~:\d+$~', '', (string) $row['HOST']),
                (string) $row['DB'],
                (string) $row['STATE'],
                $row['COMMAND'] === 'Sleep',
                (int) ((float) $row['TIME_MS'] * 1000),
                (string) ($row['INFO'] ?? $last[$id] ?? ''),
                $row['open_us'] === null ? null : max(0, (int) $row['open_us']),
                (int) $row['trx_rows_locked'],
                (int) $row['trx_rows_modified'],
            );
        }

        return $sessions;
    }

    /**
     * What each session ran last, where the server keeps that.
     *
     * @return array<int, string>
     */
    private function lastStatements(string $list): array
    {
        try {
            $rows = $this->pdo()
                ->query(
                    "SELECT t.PROCESSLIST_ID, c.SQL_TEXT FROM performance_schema.events_statements_current c
                    JOIN performance_schema.threads t ON t.THREAD_ID = c.THREAD_ID
                    WHERE t.PROCESSLIST_ID IN ({$list}) AND c.SQL_TEXT IS NOT NULL",
                )
                ->fetchAll(PDO::FETCH_NUM);
        } catch (PDOException) {
            return [];
        }
        $last = [];
        foreach ($rows as [$id, $sql]) {
            $last[(int) $id] = (string) $sql;
        }

        return $last;
    }

    /** `schema`.`table` without its quotes. */
    private static function table(string $quoted): string
    {
        return preg_match('~^`((?:[^`]|``)+)`\.`((?:[^`]|``)+)`~', $quoted, $parts) === 1
            ? str_replace('``', '`', "{$parts[1]}.{$parts[2]}")
            : $quoted;
    }

    private function pdo(): ThrowingPdo
    {
        return $this->connection ??= MariaDbSource::watching($this->cluster, self::SECONDS);
    }
}
