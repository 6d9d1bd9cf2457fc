<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Models\Cluster;
use App\Platform\Support\ThrowingPdo;
use PDO;
use PDOException;

/**
 * State and variables of a MariaDB, read by the watcher's account.
 */
final class MariaDbState implements StateSource
{
    private const SECONDS = 2;

    /** Of the counters and quantities the server keeps. */
    private const KEPT = [
        'questions', 'connections', 'aborted_connects', 'aborted_clients', 'threads_connected', 'threads_running', 'max_used_connections',
        'bytes_received', 'bytes_sent', 'created_tmp_tables', 'created_tmp_disk_tables', 'select_full_join', 'select_scan', 'slow_queries',
        'sort_merge_passes', 'table_locks_waited', 'open_tables', 'innodb_buffer_pool_read_requests', 'innodb_buffer_pool_reads',
        'innodb_buffer_pool_pages_dirty', 'innodb_buffer_pool_pages_total', 'innodb_buffer_pool_pages_free',
        'innodb_buffer_pool_wait_free', 'innodb_data_read', 'innodb_data_written', 'innodb_data_reads', 'innodb_data_writes',
        'innodb_os_log_written', 'innodb_row_lock_time', 'innodb_row_lock_waits', 'innodb_row_lock_current_waits', 'handler_write',
        'handler_update', 'handler_delete', 'innodb_history_list_length', 'innodb_checkpoint_age',
        'innodb_checkpoint_max_age', 'innodb_deadlocks',
    ];

    /** Change by themselves, or are another one in each session. */
    private const RESTLESS = '~^(timestamp|gtid_.*|.*_gtid.*|last_insert_id|insert_id|rand_seed.*|error_count|warning_count|identity|'
        .'pseudo_thread_id|in_transaction|skip_replication|.*server_uid|last_gtid|max_statement_time|time_zone|character_set_.*|'
        .'collation_connection|external_user|proxy_user|innodb_buffer_pool_load_.*|innodb_buffer_pool_dump_.*)$~';

    private ?ThrowingPdo $connection = null;

    public function __construct(private readonly Cluster $cluster)
    {
    }

    public function state(): ServerState
    {
        try {
            $pdo = $this->pdo();
            $rows = $pdo
                ->query(
                    'SELECT LOWER(VARIABLE_NAME), VARIABLE_VALUE, CAST(UNIX_TIMESTAMP(NOW(6)) * 1000000 AS UNSIGNED) FROM '
                        ."information_schema.GLOBAL_STATUS WHERE VARIABLE_NAME IN ('UPTIME', '".
                        implode("', '", array_map(strtoupper(...), self::KEPT))."')",
                )
                ->fetchAll(PDO::FETCH_NUM);
            $values = array_map(floatval(...), array_column($rows, 1, 0));
            $atUs = (int) ($rows[0][2] ?? 0);
            $uptime = (int) ($values['uptime'] ?? 0);
            unset($values['uptime']);

            return new ServerState($atUs - $uptime * 1_000_000, $atUs, $values + $this->lag($pdo), $this->waiting($pdo));
        } catch (PDOException $exception) {
            throw new SourceError(MariaDbSource::clean($exception));
        }
    }

    public function variables(): array
    {
        try {
            $variables = array_column(
                $this->pdo()->query('SELECT LOWER(VARIABLE_NAME), VARIABLE_VALUE FROM information_schema.GLOBAL_VARIABLES')
                    ->fetchAll(PDO::FETCH_NUM),
                1,
                0,
            );
        } catch (PDOException $exception) {
            throw new SourceError(MariaDbSource::clean($exception));
        }
        ksort($variables);

        return array_filter(
            array_map(strval(...), $variables),
            static fn (string $name): bool => preg_match(self::RESTLESS, $name) !== 1,
            ARRAY_FILTER_USE_KEY,
        );
    }

    /**
     * @return array<string, float> seconds the slowest source is behind; nothing where there is none, or where it is not told
     */
    private function lag(ThrowingPdo $pdo): array
    {
        try {
            $behind = array_column($pdo->query('SHOW ALL SLAVES STATUS')->fetchAll(PDO::FETCH_ASSOC), 'Seconds_Behind_Master');
        } catch (PDOException) {
            // The account may not look at that.
            return [];
        }
        $known = array_filter($behind, static fn (mixed $seconds): bool => $seconds !== null);

        return $known === [] ? [] : ['replication_lag_s' => (float) max($known)];
    }

    /**
     * @return array<int, string>
     */
    private function waiting(ThrowingPdo $pdo): array
    {
        try {
            return array_column(
                $pdo->query("SELECT trx_mysql_thread_id, COALESCE(trx_query, '') FROM information_schema.INNODB_TRX WHERE trx_state = "
                    ."'LOCK WAIT' LIMIT 200")->fetchAll(PDO::FETCH_NUM),
                1,
                0,
            );
        } catch (PDOException) {
            return [];
        }
    }

    private function pdo(): ThrowingPdo
    {
        return $this->connection ??= MariaDbSource::watching($this->cluster, self::SECONDS);
    }
}
