<?php

declare(strict_types=1);

/*
 * Sets up our own MariaDB over its socket, as the operating system's account, before the framework can run.
 *
 *   database.php ping SOCKET
 *   database.php prepare SOCKET PORT ENV_FILE
 *   database.php readable SOCKET
 *
 * Passwords are made once and live in the settings file only (mode 0600).
 */

[, $action, $socket] = $argv;
$account = posix_getpwuid(posix_geteuid())['name'] ?? 'root';
$pdo = new PDO("mysql:unix_socket={$socket}", $account, '', [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION]);
if ($action === 'ping') {
    exit(0);
}
if ($action === 'readable') {
    // Plans of our own statements can only be asked for by an account that may read their tables: the telemetry, but
    // neither accounts and sessions nor anything sealed. Rights can be given once the tables are there.
    foreach (
        $pdo
            ->query(
                "SELECT TABLE_NAME FROM information_schema.TABLES WHERE TABLE_SCHEMA = 'fulcrion' AND (TABLE_NAME LIKE 'load\\_%' OR "
                    ."TABLE_NAME IN ('statements', 'statement_presence', 'origins', 'seen_executions', 'digest_readings'))",
            )
            ->fetchAll(PDO::FETCH_COLUMN) as $table
    ) {
        foreach (['localhost', '127.0.0.1'] as $host) {
            $pdo->exec("GRANT SELECT ON fulcrion.`{$table}` TO 'fulcrion_watcher'@'{$host}'");
        }
    }
    exit(0);
}

[, , , $port, $envFile] = $argv;
$env = is_file($envFile) ? (parse_ini_file($envFile, false, INI_SCANNER_RAW) ?: []) : [];
$secret = static fn (): string => bin2hex(random_bytes(24));
$env += [
    'APP_NAME' => 'Fulcrion',
    'APP_ENV' => 'production',
    'APP_DEBUG' => 'false',
    'APP_KEY' => 'base64:'.base64_encode(random_bytes(32)),
    'LOG_CHANNEL' => 'single',
    'LOG_LEVEL' => 'warning',
    'DB_CONNECTION' => 'mariadb',
    'DB_HOST' => '127.0.0.1',
    'DB_DATABASE' => 'fulcrion',
    'DB_USERNAME' => 'fulcrion_app',
    'DB_PASSWORD' => $secret(),
    'DB_TEST_PASSWORD' => $secret(),
    'WATCHER_PASSWORD' => $secret(),
    'KEEPER_PASSWORD' => $secret(),
    'ENDER_PASSWORD' => $secret(),
    'SESSION_DRIVER' => 'database',
    'CACHE_STORE' => 'database',
    'QUEUE_CONNECTION' => 'database',
];
$env['DB_PORT'] = $port;
$lines = '';
foreach ($env as $key => $value) {
    $lines .= "{$key}=\"{$value}\"\n";
}
touch($envFile);
chmod($envFile, 0600);
file_put_contents($envFile, $lines);

$user = static function (string $name, string $password, array $grants) use ($pdo): void {
    $quoted = $pdo->quote($password);
    foreach (['localhost', '127.0.0.1'] as $host) {
        $pdo->exec("CREATE USER IF NOT EXISTS '{$name}'@'{$host}' IDENTIFIED BY {$quoted}");
        $pdo->exec("ALTER USER '{$name}'@'{$host}' IDENTIFIED BY {$quoted}");
        foreach ($grants as $grant) {
            $pdo->exec("GRANT {$grant} TO '{$name}'@'{$host}'");
        }
    }
};
$own = 'SELECT, INSERT, UPDATE, DELETE, CREATE, ALTER, DROP, INDEX, REFERENCES, CREATE TEMPORARY TABLES';
$pdo->exec('CREATE DATABASE IF NOT EXISTS fulcrion');
// Tests and benches have schemas of their own, so that they can run beside the application.
$pdo->exec('CREATE DATABASE IF NOT EXISTS fulcrion_test');
$pdo->exec('CREATE DATABASE IF NOT EXISTS fulcrion_other_test');
$pdo->exec('CREATE DATABASE IF NOT EXISTS fulcrion_browser');
$pdo->exec('CREATE DATABASE IF NOT EXISTS fulcrion_browser_other');
$pdo->exec('CREATE DATABASE IF NOT EXISTS fulcrion_bench');
$user('fulcrion_app', $env['DB_PASSWORD'], ["{$own} ON fulcrion.*"]);
$user('fulcrion_test', $env['DB_TEST_PASSWORD'], [
    "{$own} ON fulcrion_test.*",
    "{$own}, CREATE VIEW, SHOW VIEW ON fulcrion_other_test.*",
    "{$own} ON fulcrion_browser.*",
    "{$own} ON fulcrion_browser_other.*",
    "{$own}, CREATE VIEW, SHOW VIEW ON fulcrion_bench.*",
    'CREATE VIEW, SHOW VIEW ON fulcrion_test.*',
]);
$user('fulcrion_watcher', $env['WATCHER_PASSWORD'], ['PROCESS ON *.*', 'SELECT ON performance_schema.*', 'SELECT ON fulcrion_browser.*',
    'SELECT ON fulcrion_browser_other.*']);
// Stops statements and sessions, and can do nothing else.
$user('fulcrion_ender', $env['ENDER_PASSWORD'], ['CONNECTION ADMIN ON *.*']);
// Writes a policy out as roles, grants and views, and signs in as a test user to prove it: in these schemas only.
foreach (['brackenfold', 'brackenfold_test', 'brackenfold_browser', 'brackenfold_browser_other'] as $schema) {
    $pdo->exec("CREATE DATABASE IF NOT EXISTS {$schema}");
}
$user('fulcrion_keeper', $env['KEEPER_PASSWORD'], ['CREATE USER ON *.*', 'SELECT ON mysql.*']);
foreach (['localhost', '127.0.0.1'] as $host) {
    foreach (['brackenfold', 'brackenfold\\_%'] as $schema) {
        $pdo->exec(
            "GRANT SELECT, INSERT, UPDATE, DELETE, CREATE, ALTER, DROP, INDEX, REFERENCES, CREATE VIEW, SHOW VIEW ON `{$schema}`.* TO "
                ."'fulcrion_keeper'@'{$host}' WITH GRANT OPTION",
        );
    }
}
