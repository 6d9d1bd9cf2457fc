<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Models\Cluster;
use App\Platform\Support\ThrowingPdo;
use Closure;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanError;
use Fulcrion\Core\Proofs\Measured;
use Fulcrion\Core\Proofs\RowsDigest;
use Fulcrion\Core\Storage\Indexes\Index;
use Fulcrion\Core\Storage\Indexes\IndexedTable;
use Fulcrion\Core\Text\Parts;
use PDO;
use PDOException;

/**
 * Indexes of a MariaDB: on our own server with the account that may change the schemas given to it, elsewhere with the
 * one the cluster was added with, as far as its rights reach. Copies lie in a schema of their own.
 */
final class MariaDbIndexes implements IndexSource
{
    private const SECONDS = 30;

    private const ROWS = 100_000;

    /** A change waits for a table so long at most. */
    private const LOCK_SECONDS = 10;

    /** Rows that values are counted in. */
    private const SAMPLE = 20_000;

    /** Places of a table they are taken from. */
    private const PLACES = 100;

    /** Values of a column whose share is kept. */
    private const FREQUENT = 50;

    /** For what is asked of our own accord, in no schema: so it is known again among the statements of the server. */
    private ?ThrowingPdo $connection = null;

    /** @var array<string, ThrowingPdo> for statements of others, by the schema they are sent in */
    private array $others = [];

    /** @var array<string, array{string, float}> how a sample of a table is read, and its rows: asked for once */
    private array $sampled = [];

    public function __construct(private readonly Cluster $cluster)
    {
    }

    public function tables(): array
    {
        return $this->guarded(function (ThrowingPdo $pdo): array {
            $only = $this->cluster->is_own
                ? 'AND TABLE_SCHEMA IN ('.implode(', ', array_map($pdo->quote(...), $this->schemas())).')'
                : "AND TABLE_SCHEMA NOT IN ('information_schema', 'performance_schema', 'mysql', 'sys') AND TABLE_SCHEMA NOT LIKE "
                ."'%\\_rehearsal'";
            $columns = self::columns($pdo, $only);
            [$indexes, $distinct] = $this->indexes($pdo, $only);
            $foreign = $this->foreign($pdo);
            $tables = [];
            foreach (
                $pdo
                    ->query(
                        "SELECT LOWER(CONCAT(TABLE_SCHEMA, '.', TABLE_NAME)), TABLE_ROWS FROM information_schema.TABLES WHERE "
                            ."TABLE_TYPE = 'BASE TABLE' {$only}",
                    )
                    ->fetchAll(PDO::FETCH_NUM) as [$table, $rows]
            ) {
                $known = $columns[$table] ?? [];
                foreach ($distinct[$table] ?? [] as $name => $count) {
                    if (isset($known[$name])) {
                        $known[$name]['distinct'] = $count;
                    }
                }
                $tables[(string) $table] = new IndexedTable(
                    (string) $table,
                    (int) $rows,
                    $known,
                    $indexes[$table] ?? [],
                    $foreign[$table] ?? [],
                );
            }

            return $tables;
        });
    }

    /**
     * @return array<string, array<string, array{bytes: float, distinct: float|null, long: bool}>> of each table by name
     */
    private static function columns(ThrowingPdo $pdo, string $only): array
    {
        $columns = [];
        foreach (
            $pdo
                ->query(
                    "SELECT LOWER(CONCAT(TABLE_SCHEMA, '.', TABLE_NAME)), LOWER(COLUMN_NAME), DATA_TYPE, "
                        ."COALESCE(CHARACTER_OCTET_LENGTH, 0) FROM information_schema.COLUMNS WHERE 1 = 1 {$only} ORDER BY "
                        .'ORDINAL_POSITION',
                )
                ->fetchAll(PDO::FETCH_NUM) as [$table, $name, $type, $length]
        ) {
            $columns[$table][$name] = [
                'bytes' => $length > 0 ? min(40.0, $length / 4) : 8.0,
                'distinct' => null,
                'long' => $length > 1000 ||
                    in_array($type, ['text', 'longtext', 'mediumtext', 'blob', 'longblob', 'mediumblob', 'json', 'geometry'], true),
            ];
        }

        return $columns;
    }

    /**
     * @return array{array<string, list<Index>>, array<string, array<string, float>>} of each table its indexes, and how many values
     *     its columns have that begin one
     */
    private function indexes(ThrowingPdo $pdo, string $only): array
    {
        $indexes = $uses = $distinct = [];
        foreach ($this->uses() as [$table, $index, $reads]) {
            $uses[$table][$index] = $reads;
        }
        $parts = [];
        foreach (
            $pdo
                ->query(
                    "SELECT LOWER(CONCAT(TABLE_SCHEMA, '.', TABLE_NAME)), INDEX_NAME, LOWER(COLUMN_NAME), NON_UNIQUE, SEQ_IN_INDEX, "
                        ."CARDINALITY, INDEX_TYPE, SUB_PART FROM information_schema.STATISTICS WHERE 1 = 1 {$only} ORDER BY 1, 2, "
                        .'SEQ_IN_INDEX',
                )
                ->fetchAll(PDO::FETCH_NUM) as [$table, $index, $column, $nonUnique, $place, $cardinality, $type, $beginning]
        ) {
            $parts[$table][$index]['columns'][] = (string) $column;
            $parts[$table][$index]['unique'] = (int) $nonUnique === 0;
            $parts[$table][$index]['whole'] = ($parts[$table][$index]['whole'] ?? true) && $type === 'BTREE' && $beginning === null;
            if ((int) $place === 1 && $cardinality !== null) {
                $distinct[$table][$column] = (float) $cardinality;
            }
        }
        foreach ($parts as $table => $list) {
            foreach ($list as $name => $one) {
                $indexes[$table][] = new Index(
                    (string) $name,
                    $one['columns'],
                    $one['unique'],
                    $uses === [] ? null : $uses[$table][$name] ?? 0,
                    $one['whole'],
                );
            }
        }

        return [$indexes, $distinct];
    }

    public function distinct(string $table, array $columns): array
    {
        return $this->guarded(function (ThrowingPdo $pdo) use ($table, $columns): array {
            [$sample, $rows] = $this->sample($pdo, $table);
            $distinct = [];
            foreach ($columns as $column) {
                $counts = $pdo
                    ->query("SELECT COUNT(*), COALESCE(SUM(n = 1), 0), COALESCE(SUM(n), 0) FROM (SELECT COUNT(*) AS n FROM {$sample} GROUP "
                        .'BY '.MariaDbTables::quoted($column).') v')
                    ->fetch(PDO::FETCH_NUM);
                [$values, $single, $taken] = array_map(floatval(...), $counts === false ? [0, 0, 0] : $counts);
                if ($taken > 0) {
                    // Charikar et al., "Towards Estimation Error Guarantees for Distinct Values" (2000): values seen once stand for more.
                    $distinct[$column] = max($values, min($rows, sqrt(max(1.0, $rows / $taken)) * $single + $values - $single));
                }
            }

            return $distinct;
        });
    }

    public function shares(string $table, array $columns): array
    {
        return $this->guarded(function (ThrowingPdo $pdo) use ($table, $columns): array {
            [$sample] = $this->sample($pdo, $table);
            $shares = [];
            foreach ($columns as $column) {
                $name = MariaDbTables::quoted($column);
                $counts = $pdo
                    ->query("SELECT CAST({$name} AS CHAR), COUNT(*) FROM {$sample} GROUP BY 1 ORDER BY 2 DESC")
                    ->fetchAll(PDO::FETCH_NUM);
                $rows = array_sum(array_column($counts, 1));
                foreach (array_slice($counts, 0, self::FREQUENT) as [$value, $count]) {
                    // What was seen once is no frequent value.
                    if ((int) $count > 1) {
                        $shares[$column][(string) $value] = $count / max(1, $rows);
                    }
                }
            }

            return $shares;
        });
    }

    public function keeping(string $table, string $alias, array $conditions): array
    {
        return $conditions === [] ? [] : $this->guarded(function (ThrowingPdo $pdo) use ($table, $alias, $conditions): array {
            [$sample] = $this->sample($pdo, $table, $alias);
            $sums = array_map(static fn (string $condition): string => "SUM({$condition})", $conditions);
            $row = $pdo->query('SELECT COUNT(*), '.implode(', ', $sums)." FROM {$sample}")->fetch(PDO::FETCH_NUM);
            $rows = max(1.0, (float) ($row[0] ?? 0));
            $shares = [];
            foreach (array_keys($conditions) as $i => $key) {
                // Fewer than one row of the sample is not none of the table.
                $shares[$key] = max(0.5, (float) ($row[$i + 1] ?? 0)) / $rows;
            }

            return $shares;
        });
    }

    public function countedSeconds(): ?int
    {
        if ($this->uses() === []) {
            return null;
        }

        return $this->guarded(static fn (ThrowingPdo $pdo): int => (int) $pdo
            ->query("SELECT VARIABLE_VALUE FROM information_schema.GLOBAL_STATUS WHERE VARIABLE_NAME = 'UPTIME'")
            ->fetchColumn());
    }

    public function account(): string
    {
        return $this->guarded(static function (ThrowingPdo $pdo): string {
            [$name, $host] = explode('@', (string) $pdo->query('SELECT CURRENT_USER()')->fetchColumn(), 2);

            return "'{$name}'@'{$host}'";
        });
    }

    /**
     * Some rows of a table to count in: from many places of its primary key where that is a number, else the first ones. Either way no
     * more are read than are counted.
     *
     * @return array{string, float} as a table of a query, rows of the whole table as the server estimates them
     */
    private function sample(ThrowingPdo $pdo, string $table, string $alias = 's'): array
    {
        [$read, $rows] = $this->sampled[$table] ??= self::places($pdo, $table);

        return ["({$read}) ".MariaDbTables::quoted($alias), $rows];
    }

    /**
     * @return array{string, float} what reads the rows, and how many the whole table has
     */
    private static function places(ThrowingPdo $pdo, string $table): array
    {
        $tables = new MariaDbTables($pdo);
        $path = MariaDbTables::path($table);
        $rows = max(1.0, (float) $tables->rows($table));
        $key = $rows <= self::SAMPLE ? null : $tables->numberKey($table);
        if ($key === null) {
            return ["SELECT * FROM {$path} LIMIT ".self::SAMPLE, $rows];
        }
        $name = MariaDbTables::quoted($key);
        $each = intdiv(self::SAMPLE, self::PLACES);

        return [
            implode(' UNION ALL ', array_map(
                static fn (int $at): string => "(SELECT * FROM {$path} WHERE {$name} >= {$at} ORDER BY {$name} LIMIT {$each})",
                $tables->places($table, $key, self::PLACES),
            )),
            $rows,
        ];
    }

    public function copy(string $table, string $name, float $share, Closure $each): array
    {
        return $this->guarded(function (ThrowingPdo $pdo) use ($table, $name, $share, $each): array {
            [$schema] = explode('.', $table, 2);
            $rehearsal = $schema.OwnStatements::COPIES;
            $copy = "{$rehearsal}.{$name}";
            try {
                $pdo->exec('CREATE DATABASE IF NOT EXISTS '.MariaDbTables::quoted($rehearsal));
                $pdo->exec('DROP TABLE IF EXISTS '.MariaDbTables::path($copy));
                $pdo->exec('CREATE TABLE '.MariaDbTables::path($copy).' LIKE '.MariaDbTables::path($table));
            } catch (PDOException $exception) {
                throw new SourceError(
                    'No copy can be made: '.
                        MariaDbSource::clean($exception).
                        ' Allow it with: GRANT SELECT, INSERT, CREATE, DROP, INDEX ON '.
                        MariaDbTables::quoted($rehearsal).
                        '.* TO the account of the cluster.',
                );
            }
            $pdo->exec('SET SESSION max_statement_time = '.self::SECONDS);
            $rows = (new MariaDbCopy($pdo))->rows($table, $copy, max(0.0001, $share), $each);
            $pdo->query('ANALYZE TABLE '.MariaDbTables::path($copy))->fetchAll();

            return [$copy, $rows];
        });
    }

    public function forget(string $copy): void
    {
        $this->guarded(static function (ThrowingPdo $pdo) use ($copy): bool {
            $pdo->exec('DROP TABLE IF EXISTS '.MariaDbTables::path($copy));

            return true;
        });
    }

    public function apply(string $sql): void
    {
        $this->guarded(static function (ThrowingPdo $pdo) use ($sql): bool {
            $pdo->exec('SET SESSION max_statement_time = 0');
            // Whoever holds the table keeps this waiting, and this keeps all others waiting behind it: not for long.
            $pdo->exec('SET SESSION lock_wait_timeout = '.self::LOCK_SECONDS);
            // ANALYZE TABLE answers with rows, which have to be taken before anything else is asked.
            $pdo->query($sql)->closeCursor();

            return true;
        });
    }

    public function online(string $sql): void
    {
        try {
            // To drop one takes no time, and no such words.
            $this->apply(str_starts_with($sql, 'CREATE') ? "{$sql} ALGORITHM=INPLACE LOCK=NONE" : $sql);
        } catch (SourceError $error) {
            throw match (true) {
                str_contains($error->getMessage(), 'Lock wait timeout') => new SourceError(
                    'Somebody held the table for '.self::LOCK_SECONDS.' s, so nothing was changed. The page Locks shows who; try again '
                        .'when it is free.',
                ),
                str_contains($error->getMessage(), 'check that it exists') => new SourceError(
                    'It is not on the table any more: somebody dropped it meanwhile. Nothing was changed.',
                ),
                str_contains($error->getMessage(), 'is not supported') => new SourceError(
                    'The table cannot be changed while it is written to: '.$error->getMessage().' Do it by hand when nobody uses it.',
                ),
                default => $error,
            };
        }
    }

    public function lacking(string $table, bool $changes = true, bool $rehearses = true): array
    {
        return $this->guarded(function (ThrowingPdo $pdo) use ($table, $changes, $rehearses): array {
            [$schema, $own] = explode('.', $table, 2);
            $grants = $pdo->query('SHOW GRANTS')->fetchAll(PDO::FETCH_COLUMN);
            $has = static function (string $privilege, string $schema, string $table) use ($grants): bool {
                foreach ($grants as $grant) {
                    if (
                        preg_match('~^GRANT (.+?) ON (\*|`(?:[^`]|``)+`)\.(\*|`(?:[^`]|``)+`) TO ~', (string) $grant, $parts) === 1 &&
                        preg_match("~(^|, )({$privilege}|ALL PRIVILEGES)(,|$)~", $parts[1]) === 1 &&
                        preg_match(self::pattern($parts[2]), $schema) === 1 &&
                        in_array(strtolower($parts[3]), ['*', strtolower(MariaDbTables::quoted($table))], true)
                    ) {
                        return true;
                    }
                }

                return false;
            };
            $who = $this->account();
            $rehearsal = $schema.OwnStatements::COPIES;
            $lacking = [];
            if ($changes && ! $has('INDEX', $schema, $own)) {
                $lacking[] = 'GRANT INDEX ON '.MariaDbTables::path($table)." TO {$who}";
            }
            $missing = array_filter(
                ['SELECT', 'INSERT', 'CREATE', 'DROP', 'INDEX'],
                static fn (string $one): bool => ! $has($one, $rehearsal, '*'),
            );
            if ($rehearses && $missing !== []) {
                $lacking[] = 'GRANT '.implode(', ', $missing).' ON '.MariaDbTables::quoted($rehearsal).".* TO {$who}";
            }

            return $lacking;
        });
    }

    /** The schemas a GRANT is for, as an expression: "_" and "%" stand for others there, unless a backslash is before them. */
    private static function pattern(string $schema): string
    {
        if ($schema === '*') {
            return '~~';
        }
        $plain = str_replace('``', '`', substr($schema, 1, -1));
        $parts = Parts::split('~(\\\\[_%]|[_%])~', $plain, true);

        return '~^'.implode('', array_map(static fn (string $part): string => match ($part) {
            '_' => '.',
            '%' => '.*',
            '\\_' => '_',
            '\\%' => '%',
            default => preg_quote($part, '~'),
        }, $parts)).'$~i';
    }

    public function probe(string $table): array
    {
        return $this->guarded(static function (ThrowingPdo $pdo) use ($table): array {
            [$schema, $own] = explode('.', $table, 2);
            $size = $pdo->query('SELECT TABLE_ROWS, DATA_LENGTH + INDEX_LENGTH FROM information_schema.TABLES WHERE TABLE_SCHEMA = '
                .$pdo->quote($schema).' AND TABLE_NAME = '.$pdo->quote($own))->fetch(PDO::FETCH_NUM);
            if ($size === false) {
                throw new SourceError("There is no table {$table}, or the account of the cluster may not look at it.");
            }
            $began = hrtime(true);
            $read = count($pdo->query('SELECT * FROM '.MariaDbTables::path($table).' LIMIT '.MariaDbCopy::BATCH)->fetchAll(PDO::FETCH_NUM));
            $us = intdiv((int) hrtime(true) - (int) $began, 1000);
            $rows = max((int) $size[0], $read);

            return ['rows' => $rows, 'rowBytes' => (float) $size[1] / max(1, $rows), 'readUsPerRow' => $us / max(1, $read)];
        });
    }

    public function rows(string $table): int
    {
        return $this->guarded(static fn (ThrowingPdo $pdo): int => (new MariaDbTables($pdo))->rows($table));
    }

    public function ask(string $sql): void
    {
        $this->guarded(fn (): array => $this->others('')->query($sql)->fetchAll(PDO::FETCH_NUM));
    }

    public function measure(string $sql, string $schema): Measured
    {
        return $this->guarded(function () use ($sql, $schema): Measured {
            $pdo = $this->others($schema);
            $analyze = 'ANALYZE FORMAT=JSON '.rtrim($sql, "; \n");
            OwnStatements::note($analyze);
            if (str_contains($sql, OwnStatements::COPIES.'`.')) {
                OwnStatements::note($sql);
            }
            try {
                $times = [];
                $digest = new RowsDigest();
                $rows = 0;
                for ($run = 0; $run < 3; $run++) {
                    $start = hrtime(true);
                    $statement = $pdo->query($sql);
                    $count = 0;
                    while (($row = $statement->fetch(PDO::FETCH_NUM)) !== false && $count < self::ROWS) {
                        if ($run === 0) {
                            $digest->add(array_values($row));
                        }
                        $count++;
                    }
                    $statement->closeCursor();
                    $times[] = intdiv((int) hrtime(true) - (int) $start, 1000);
                    $rows = $count;
                }
                $plan = Plan::read((string) $pdo->query($analyze)->fetchColumn());
            } catch (PlanError $error) {
                throw new SourceError($error->getMessage());
            }

            return Measured::of($plan, $times[0] ?? 0, min([PHP_INT_MAX, ...$times]), $rows, $rows >= self::ROWS ? null : $digest->text());
        });
    }

    /**
     * @return array<string, list<non-empty-list<string>>> columns of foreign keys, by the tables on both of their sides
     */
    private function foreign(ThrowingPdo $pdo): array
    {
        $sides = [];
        foreach (
            $pdo
                ->query(
                    "SELECT CONSTRAINT_SCHEMA, CONSTRAINT_NAME, LOWER(CONCAT(TABLE_SCHEMA, '.', TABLE_NAME)), LOWER(COLUMN_NAME), "
                        ."LOWER(CONCAT(REFERENCED_TABLE_SCHEMA, '.', REFERENCED_TABLE_NAME)), LOWER(REFERENCED_COLUMN_NAME) FROM "
                        .'information_schema.KEY_COLUMN_USAGE WHERE REFERENCED_TABLE_NAME IS NOT NULL ORDER BY 1, 2, 3, ORDINAL_POSITION',
                )
                ->fetchAll(PDO::FETCH_NUM) as [$schema, $name, $table, $column, $other, $otherColumn]
        ) {
            $sides[$table]["{$schema}.{$name}.{$table}"][] = (string) $column;
            $sides[$other]["{$schema}.{$name}.{$table} to"][] = (string) $otherColumn;
        }

        return array_map(array_values(...), $sides);
    }

    /**
     * How often the server read by each index; nothing where it does not count.
     *
     * @return list<array{string, string, int}>
     */
    private function uses(): array
    {
        try {
            $rows = MariaDbSource::watching($this->cluster, self::SECONDS)
                ->query(
                    "SELECT LOWER(CONCAT(OBJECT_SCHEMA, '.', OBJECT_NAME)), INDEX_NAME, COUNT_READ FROM "
                        .'performance_schema.table_io_waits_summary_by_index_usage WHERE INDEX_NAME IS NOT NULL',
                )
                ->fetchAll(PDO::FETCH_NUM);
        } catch (PDOException) {
            return [];
        }
        $uses = array_map(static fn (array $row): array => [(string) $row[0], (string) $row[1], (int) $row[2]], $rows);

        return array_sum(array_column($uses, 2)) > 0 ? array_values($uses) : [];
    }

    /**
     * @return list<string>
     */
    private function schemas(): array
    {
        return Parts::between((string) config('fulcrion.keeper.schemas'));
    }

    /**
     * @template T
     *
     * @param  Closure(ThrowingPdo): T  $work
     * @return T
     */
    private function guarded(Closure $work): mixed
    {
        try {
            return $work($this->pdo());
        } catch (PDOException $exception) {
            throw new SourceError(MariaDbSource::clean($exception));
        }
    }

    private function pdo(): ThrowingPdo
    {
        return $this->connection ??= $this->connect('');
    }

    /** In the schema they are sent in; what is read is not locked, and nothing can be written. */
    private function others(string $schema): ThrowingPdo
    {
        if (! isset($this->others[$schema])) {
            $pdo = $this->connect($schema);
            $pdo->exec('SET SESSION TRANSACTION READ ONLY');
            $pdo->exec('SET SESSION max_statement_time = '.self::SECONDS);
            $pdo->hears = null;
            $this->others[$schema] = $pdo;
        }

        return $this->others[$schema];
    }

    private function connect(string $schema): ThrowingPdo
    {
        if (! $this->cluster->is_own) {
            return MariaDbSource::watching($this->cluster, self::SECONDS, $schema);
        }
        $pdo = new ThrowingPdo(
            "mysql:host={$this->cluster->host};port={$this->cluster->port};charset=utf8mb4".($schema === '' ? '' : ";dbname={$schema}"),
            (string) config('fulcrion.keeper.user'),
            (string) config('fulcrion.keeper.password'),
            [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION, PDO::ATTR_TIMEOUT => 5],
        );
        $pdo->hears = OwnStatements::note(...);

        return $pdo;
    }
}
