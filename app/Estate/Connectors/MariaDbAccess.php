<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Catalog\CatalogObject;
use App\Estate\Models\Cluster;
use App\Platform\Support\ThrowingPdo;
use Closure;
use Fulcrion\Core\Access\Provisioning\MariaDbScript;
use Fulcrion\Core\Access\Provisioning\ProvisionedRole;
use Fulcrion\Core\Proofs\Check;
use Fulcrion\Core\Text\Parts;
use Illuminate\Support\Str;
use PDO;
use PDOException;

/**
 * Accounts, roles, grants and masked views of a MariaDB, through an account that may make them in a few schemas only.
 */
final class MariaDbAccess implements AccessSource
{
    private const TRY_USER = 'fulcrion_try';

    /** A longer time is not waited for: the server is tried with this one, and its value is read. */
    private const TRY_SECONDS = 0.3;

    /** More queries are not sent: the server is tried with so many, and its value is read. */
    private const TRY_QUERIES = 2_000;

    /** What a driver sends to sign in may count as queries too. */
    private const GREETING = 3;

    private const TIMED_OUT = 1969;

    private const USED_UP = 1226;

    /** Privileges of the server that have a name in policies. */
    private const PRIVILEGES = [
        'Select' => 'select',
        'Insert' => 'insert',
        'Update' => 'update',
        'Delete' => 'delete',
        'Create' => 'create',
        'Alter' => 'alter',
        'Drop' => 'drop',
    ];

    private ?ThrowingPdo $connection = null;

    public function __construct(private readonly Cluster $cluster)
    {
    }

    /**
     * @return list<string>
     */
    private function schemas(): array
    {
        return Parts::between((string) config('fulcrion.keeper.schemas'));
    }

    private function quotedSchemas(): string
    {
        return implode(', ', array_map($this->pdo()->quote(...), $this->schemas()));
    }

    public function objects(): array
    {
        return $this->guarded(function (ThrowingPdo $pdo): array {
            $columns = $objects = [];
            foreach (
                $pdo
                    ->query(
                        'SELECT TABLE_SCHEMA, TABLE_NAME, COLUMN_NAME, COLUMN_TYPE, IS_NULLABLE FROM information_schema.COLUMNS WHERE '
                            ."TABLE_SCHEMA IN ({$this->quotedSchemas()}) ORDER BY 1, 2, ORDINAL_POSITION",
                    )
                    ->fetchAll(PDO::FETCH_NUM) as $row
            ) {
                $columns["{$row[0]}.{$row[1]}"][] = [(string) $row[2], (string) $row[3], $row[4] === 'YES'];
            }
            foreach (
                $pdo
                    ->query(
                        'SELECT t.TABLE_SCHEMA, t.TABLE_NAME, t.TABLE_TYPE, t.TABLE_ROWS, v.VIEW_DEFINITION FROM '
                            .'information_schema.TABLES t LEFT JOIN information_schema.VIEWS v USING (TABLE_SCHEMA, TABLE_NAME) WHERE '
                            ."t.TABLE_SCHEMA IN ({$this->quotedSchemas()}) AND t.TABLE_NAME NOT LIKE '".
                            addcslashes(MariaDbScript::PREFIX, '_').
                            "%' ORDER BY 1, 2",
                    )
                    ->fetchAll(PDO::FETCH_NUM) as [$schema, $name, $type, $rows, $text]
            ) {
                $objects[] = new CatalogObject(
                    $schema,
                    $name,
                    $type === 'VIEW',
                    $rows === null ? null : (int) $rows,
                    null,
                    $columns["{$schema}.{$name}"] ?? [],
                    [],
                    $type === 'VIEW' ? "CREATE VIEW `{$schema}`.`{$name}` AS {$text}" : null,
                );
            }

            return $objects;
        });
    }

    public function held(): array
    {
        return $this->guarded(function (ThrowingPdo $pdo): array {
            $roles = $grants = $isRole = [];
            foreach ($pdo->query('SELECT User, is_role FROM mysql.user ORDER BY User')->fetchAll(PDO::FETCH_NUM) as [$name, $role]) {
                if (self::isForeign((string) $name)) {
                    $isRole[(string) $name] = $role === 'Y';
                }
            }
            foreach ($pdo->query('SELECT User, Role FROM mysql.roles_mapping ORDER BY 1, 2')->fetchAll(PDO::FETCH_NUM) as [$user, $role]) {
                if (isset($isRole[$user], $isRole[$role])) {
                    $roles[$user][] = (string) $role;
                }
            }
            $add = static function (string $user, array $privileges, string $path) use (&$grants, $isRole): void {
                if (isset($isRole[$user]) && $privileges !== []) {
                    $grants[$user][] = [array_values($privileges), $path];
                }
            };
            foreach ($pdo->query("SELECT * FROM mysql.db WHERE Db IN ({$this->quotedSchemas()})")->fetchAll(PDO::FETCH_ASSOC) as $row) {
                $names = [];
                foreach (self::PRIVILEGES as $theirs => $ours) {
                    if (($row["{$theirs}_priv"] ?? 'N') === 'Y') {
                        $names[] = $ours;
                    }
                }
                $add((string) $row['User'], $names, (string) $row['Db']);
            }
            foreach (
                $pdo
                    ->query("SELECT User, Db, Table_name, Table_priv FROM mysql.tables_priv WHERE Db IN ({$this->quotedSchemas()})")
                    ->fetchAll(PDO::FETCH_NUM) as [$user, $schema, $table, $set]
            ) {
                $add(
                    (string) $user,
                    array_values(array_intersect_key(self::PRIVILEGES, array_flip(explode(',', (string) $set)))),
                    "{$schema}.{$table}",
                );
            }
            foreach (
                $pdo
                    ->query(
                        'SELECT User, Db, Table_name, Column_name, Column_priv FROM mysql.columns_priv WHERE Db '
                            ."IN ({$this->quotedSchemas()})",
                    )
                    ->fetchAll(PDO::FETCH_NUM) as [$user, $schema, $table, $column, $set]
            ) {
                $add(
                    (string) $user,
                    array_values(array_intersect_key(self::PRIVILEGES, array_flip(explode(',', (string) $set)))),
                    "{$schema}.{$table}.{$column}",
                );
            }

            $held = ['accounts' => [], 'roles' => []];
            foreach ($isRole as $name => $is) {
                $held[$is ? 'roles' : 'accounts'][$name] = ['roles' => $roles[$name] ?? [], 'grants' => $grants[$name] ?? []];
            }

            return $held;
        });
    }

    /** Neither the server's own accounts nor this application's, nor what was written out from here. */
    private static function isForeign(string $name): bool
    {
        return $name !== '' &&
            ! in_array($name, ['root', 'mysql', 'mariadb.sys', 'PUBLIC'], true) &&
            ! str_starts_with($name, 'fulcrion_') &&
            ! str_starts_with($name, MariaDbScript::PREFIX);
    }

    public function accounts(): array
    {
        return $this->guarded(function (ThrowingPdo $pdo): array {
            $accounts = [];
            foreach (
                $pdo->query("SELECT User, Host FROM mysql.user WHERE is_role = 'N' ORDER BY 1, "
                    .'2')->fetchAll(PDO::FETCH_NUM) as [$name, $host]
            ) {
                if (self::isForeign((string) $name)) {
                    $accounts[(string) $name][] = $pdo->quote((string) $name).'@'.$pdo->quote((string) $host);
                }
            }

            return $accounts;
        });
    }

    public function limited(): array
    {
        return $this->guarded(function (ThrowingPdo $pdo): array {
            $found = [];
            $sql = "SELECT User, Host, max_statement_time, max_questions FROM mysql.user WHERE is_role = 'N' ORDER BY 1, 2";
            foreach ($pdo->query($sql)->fetchAll(PDO::FETCH_NUM) as [$name, $host, $seconds, $queries]) {
                if (self::isForeign((string) $name)) {
                    $found[] = new ServerAccount(
                        (string) $name,
                        (string) $host,
                        $pdo->quote((string) $name).'@'.$pdo->quote((string) $host),
                        (float) $seconds > 0 ? (float) $seconds : null,
                        (int) $queries > 0 ? (int) $queries : null,
                    );
                }
            }

            return $found;
        });
    }

    public function tryLimits(?float $statementSeconds, ?int $queriesPerHour): array
    {
        $lines = [];
        if ($statementSeconds !== null) {
            $seconds = ServerAccount::seconds($statementSeconds);
            $read = $this->asLimited(
                "MAX_STATEMENT_TIME {$seconds}",
                static fn (ThrowingPdo $user): string => (string) $user->query('SELECT @@max_statement_time')->fetchColumn(),
            );
            $lines[] = Check::line('time a statement of the test user may take', "{$seconds} s", ServerAccount::seconds((float) $read)
                .' s');
            $tried = min($statementSeconds, self::TRY_SECONDS);
            $took = $this->asLimited('MAX_STATEMENT_TIME '.ServerAccount::seconds($tried), self::untilEnded(...));
            $lines[] = [
                'what' => 'a statement that would take 5 s, with '.ServerAccount::seconds($tried).' s',
                'expected' => 'ended by the server',
                'got' => $took === null ? 'not ended' : 'ended after '.ServerAccount::seconds($took).' s',
                'holds' => $took !== null && $took >= $tried * 0.5 && $took < $tried + 2.0,
            ];
        }
        if ($queriesPerHour !== null) {
            $tried = min($queriesPerHour, self::TRY_QUERIES);
            $sent = $this->asLimited(
                "MAX_QUERIES_PER_HOUR {$tried}",
                static fn (ThrowingPdo $user): ?int => self::untilRefused($user, $tried),
            );
            $lines[] = [
                'what' => "queries in an hour, with {$tried}",
                'expected' => "refused after {$tried}",
                'got' => $sent === null ? 'not refused' : "refused after {$sent}, and what signing in sent",
                'holds' => $sent !== null && $sent <= $tried && $sent >= $tried - self::GREETING,
            ];
        }

        return $lines;
    }

    /** @return float|null seconds until the server ended it; null where it did not */
    private static function untilEnded(ThrowingPdo $user): ?float
    {
        $began = hrtime(true);
        try {
            $user->query('SELECT SLEEP(5)')->fetchAll();
        } catch (PDOException $error) {
            return (int) ($error->errorInfo[1] ?? 0) === self::TIMED_OUT ? (hrtime(true) - $began) / 1e9 : null;
        }

        return null;
    }

    /** @return int|null queries that went through until one was refused; null where none was */
    private static function untilRefused(ThrowingPdo $user, int $most): ?int
    {
        for ($sent = 0; $sent <= $most; $sent++) {
            try {
                $user->query('DO 0')->closeCursor();
            } catch (PDOException $error) {
                return (int) ($error->errorInfo[1] ?? 0) === self::USED_UP ? $sent : null;
            }
        }

        return null;
    }

    /**
     * @template T
     *
     * @param  Closure(ThrowingPdo): T  $work
     * @return T
     */
    private function asLimited(string $with, Closure $work): mixed
    {
        // A name of its own each time: the server goes on counting for a name that was used within the hour.
        $name = self::TRY_USER.'_'.bin2hex(random_bytes(4));
        $secret = bin2hex(random_bytes(18));
        try {
            $this->pdo()->exec("CREATE USER '{$name}'@'%' IDENTIFIED BY '{$secret}' WITH {$with}");
            $user = $this->signedIn($name, $secret);

            return $work($user);
        } catch (PDOException $error) {
            throw new SourceError('The test user cannot sign in: '.MariaDbSource::clean($error));
        } finally {
            $this->pdo()->exec("DROP USER IF EXISTS '{$name}'@'%'");
        }
    }

    private function signedIn(string $name, string $secret): ThrowingPdo
    {
        $address = "mysql:host={$this->cluster->host};port={$this->cluster->port};charset=utf8mb4";
        $user = new ThrowingPdo($address, $name, $secret, [
            PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION,
            PDO::ATTR_STRINGIFY_FETCHES => true,
        ]);
        // A trial is no load, and what it is refused is no failure of anybody.
        $user->hears = OwnStatements::note(...);

        return $user;
    }

    public function written(): array
    {
        return $this->guarded(function (ThrowingPdo $pdo): array {
            $prefix = addcslashes(MariaDbScript::PREFIX, '_').'%';
            $views = $grants = $people = [];
            foreach (
                $pdo
                    ->query(
                        'SELECT TABLE_SCHEMA, TABLE_NAME, VIEW_DEFINITION FROM information_schema.VIEWS WHERE TABLE_SCHEMA '
                            ."IN ({$this->quotedSchemas()}) AND TABLE_NAME LIKE '{$prefix}'",
                    )
                    ->fetchAll(PDO::FETCH_NUM) as [$schema, $name, $text]
            ) {
                $views["{$schema}.{$name}"] = (string) $text;
            }
            foreach (
                $pdo
                    ->query(
                        "SELECT User, Db, Table_name, Table_priv FROM mysql.tables_priv WHERE User LIKE '{$prefix}' AND Db "
                            ."IN ({$this->quotedSchemas()})",
                    )
                    ->fetchAll(PDO::FETCH_NUM) as [$role, $schema, $table, $set]
            ) {
                $path = self::path((string) $schema, (string) $table);
                $line = strtoupper(str_replace(',', ', ', (string) $set))." ON {$path}";
                $grants[(string) $role][$line] = $line;
            }
            foreach (
                $pdo
                    ->query("SELECT Role, User FROM mysql.roles_mapping WHERE Role LIKE '{$prefix}' AND User NOT LIKE 'fulcrion\\_%'")
                    ->fetchAll(PDO::FETCH_NUM) as [$role, $user]
            ) {
                $people[(string) $role][] = (string) $user;
            }
            $roles = [];
            foreach (
                $pdo->query("SELECT User FROM mysql.user WHERE is_role = 'Y' AND User "
                    ."LIKE '{$prefix}'")->fetchAll(PDO::FETCH_COLUMN) as $role
            ) {
                if (! isset($grants[(string) $role])) {
                    // Of another schema, and not for us to touch.
                    continue;
                }
                $own = [];
                foreach ($grants[(string) $role] as $line) {
                    $path = str_replace('`', '', Str::after($line, ' ON '));
                    if (isset($views[$path])) {
                        $own[self::path(...explode('.', $path, 2))] = $views[$path];
                    }
                }
                $roles[(string) $role] = new ProvisionedRole(
                    (string) $role,
                    array_values(array_unique($people[(string) $role] ?? [])),
                    $grants[(string) $role],
                    $own,
                );
            }

            return $roles;
        });
    }

    private static function path(string $schema, string $name): string
    {
        return (new \Fulcrion\Core\Sql\Printer(\Fulcrion\Core\Sql\Dialect::MariaDb))->path([$schema, $name]);
    }

    public function hashKey(): string
    {
        // From the application's own key, so that hashes stay joinable when a policy is written out again.
        return substr(hash_hmac('sha256', "masks of {$this->cluster->slug}", (string) config('app.key')), 0, 32);
    }

    public function apply(array $statements): void
    {
        foreach ($statements as $i => $sql) {
            try {
                $this->pdo()->exec($sql);
            } catch (PDOException $error) {
                throw new SourceError('Statement '.($i + 1).' of '.count($statements).' failed: '.MariaDbSource::clean($error));
            }
        }
    }

    public function tryAs(string $role, array $selects): array
    {
        $secret = bin2hex(random_bytes(18));
        $account = "'".self::TRY_USER."'@'%'";
        try {
            $this->pdo()->exec("CREATE OR REPLACE USER {$account} IDENTIFIED BY '{$secret}'");
            $this->pdo()->exec("GRANT `{$role}` TO {$account}");
            $user = $this->signedIn(self::TRY_USER, $secret);
            $user->exec("SET ROLE `{$role}`");

            return self::select($user, $selects);
        } catch (PDOException $error) {
            throw new SourceError('The test user cannot sign in: '.MariaDbSource::clean($error));
        } finally {
            $this->pdo()->exec("DROP USER IF EXISTS {$account}");
        }
    }

    public function tryAsKeeper(array $selects): array
    {
        return self::select($this->pdo(), $selects);
    }

    /**
     * @param  array<string, string>  $selects
     * @return array<string, array{rows: int, digest: string, error: string|null}>
     */
    private static function select(ThrowingPdo $pdo, array $selects): array
    {
        $found = [];
        foreach ($selects as $name => $sql) {
            try {
                $lines = array_map(
                    static fn (array $row): string => (string) json_encode(
                        array_map(static fn (mixed $value): ?string => $value === null ? null : (string) $value, $row),
                        JSON_INVALID_UTF8_SUBSTITUTE,
                    ),
                    $pdo->query($sql)->fetchAll(PDO::FETCH_NUM),
                );
                sort($lines);
                $found[$name] = ['rows' => count($lines), 'digest' => hash('xxh128', implode("\n", $lines)), 'error' => null];
            } catch (PDOException $error) {
                $found[$name] = ['rows' => 0, 'digest' => '', 'error' => MariaDbSource::clean($error)];
            }
        }

        return $found;
    }

    /**
     * @template T
     *
     * @param  callable(ThrowingPdo): T  $work
     * @return T
     */
    private function guarded(callable $work): mixed
    {
        try {
            return $work($this->pdo());
        } catch (PDOException $error) {
            throw new SourceError(MariaDbSource::clean($error));
        }
    }

    private function pdo(): ThrowingPdo
    {
        try {
            return $this->connection ??= new ThrowingPdo(
                "mysql:host={$this->cluster->host};port={$this->cluster->port};charset=utf8mb4",
                (string) config('fulcrion.keeper.user'),
                (string) config('fulcrion.keeper.password'),
                [
                    PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION,
                    PDO::ATTR_TIMEOUT => 5,
                    PDO::MYSQL_ATTR_MULTI_STATEMENTS => false,
                    PDO::ATTR_STRINGIFY_FETCHES => true,
                    PDO::MYSQL_ATTR_INIT_COMMAND => "SET NAMES utf8mb4, time_zone = '+00:00'",
                ],
            );
        } catch (PDOException $error) {
            throw new SourceError(MariaDbSource::clean($error));
        }
    }
}
