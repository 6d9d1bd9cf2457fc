<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Live;

use App\Platform\Support\ThrowingPdo;
use mysqli;
use PDO;
use PDOException;
use RuntimeException;

/**
 * A MariaDB for one's own use: on loopback or its socket only, in a folder that goes with it.
 */
final class PrivateServer
{
    public readonly string $folder;

    public readonly int $port;

    /** @var resource|null */
    private $process = null;

    /** @var list<mysqli> */
    private array $sessions = [];

    /**
     * @param  list<string>  $options of the server
     */
    private function __construct(private readonly array $options)
    {
        $this->folder = sys_get_temp_dir().'/fulcrion-server-'.bin2hex(random_bytes(4));
        $free = stream_socket_server('tcp://127.0.0.1:0');
        if ($free === false) {
            throw new RuntimeException('No port is free.');
        }
        $this->port = (int) substr((string) strrchr((string) stream_socket_get_name($free, false), ':'), 1);
        fclose($free);
    }

    public static function start(string ...$options): self
    {
        $server = new self(array_values($options));
        mkdir($server->folder, 0o755);
        $account = self::account();
        exec(
            'mariadb-install-db --no-defaults --user='.escapeshellarg($account).' --datadir='.escapeshellarg("{$server->folder}/db").
                ' --auth-root-authentication-method=socket --skip-test-db 2>&1',
            $output,
            $status,
        );
        if ($status !== 0) {
            throw new RuntimeException(implode("\n", $output));
        }
        chown($server->folder, $account);
        $server->up();

        return $server;
    }

    /** Starts it, the first time or after an outage. */
    public function up(): void
    {
        $account = self::account();
        $process = proc_open(
            [
                '/usr/sbin/mariadbd', '--no-defaults', "--user={$account}", "--datadir={$this->folder}/db",
                "--socket={$this->folder}/db.sock", "--port={$this->port}",
                "--tmpdir={$this->folder}", '--bind-address=127.0.0.1', '--innodb-buffer-pool-size=32M',
                '--innodb-flush-log-at-trx-commit=0', ...$this->options,
            ],
            [['file', '/dev/null', 'r'], ['file', '/dev/null', 'w'], ['file', "{$this->folder}/error.log", 'a']],
            $pipes,
        );
        if (! is_resource($process)) {
            throw new RuntimeException('The server could not be started.');
        }
        $this->process = $process;
        for ($i = 0; $i < 200; $i++) {
            try {
                $this->pdo();

                return;
            } catch (PDOException) {
                usleep(100_000);
            }
        }
        throw new RuntimeException((string) file_get_contents("{$this->folder}/error.log"));
    }

    public function down(): void
    {
        if ($this->process !== null) {
            proc_terminate($this->process);
            while (proc_get_status($this->process)['running']) {
                usleep(50_000);
            }
            proc_close($this->process);
            $this->process = null;
        }
    }

    /** Whatever they wait for or hold: the server takes it back. */
    public function closeSessions(): void
    {
        $pdo = $this->sessions === [] ? null : $this->pdo();
        foreach ($this->sessions as $session) {
            try {
                $pdo?->exec("KILL {$session->thread_id}");
            } catch (PDOException) {
                // It has ended already.
            }
        }
        $ids = implode(', ', array_map(static fn (mysqli $session): int => $session->thread_id, $this->sessions));
        for ($i = 0; $pdo !== null && $i < 100; $i++) {
            if ((int) $pdo->query("SELECT COUNT(*) FROM information_schema.processlist WHERE id IN ({$ids})")->fetchColumn() === 0) {
                break;
            }
            usleep(50_000);
        }
        $this->sessions = [];
    }

    public function remove(): void
    {
        $this->sessions = [];
        $this->down();
        exec('rm -rf '.escapeshellarg($this->folder));
    }

    /** As the account that may do everything. */
    public function pdo(bool $emulated = true): ThrowingPdo
    {
        return new ThrowingPdo("mysql:unix_socket={$this->folder}/db.sock", self::own(), '', [
            PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION,
            PDO::ATTR_EMULATE_PREPARES => $emulated,
        ]);
    }

    /** A session that can be sent a statement without waiting for what comes of it. */
    public function session(string $schema): mysqli
    {
        return $this->sessions[] = self::login("{$this->folder}/db.sock", $schema);
    }

    /** A session at the socket of any server that lets this account in. */
    public static function login(string $socket, string $schema): mysqli
    {
        mysqli_report(MYSQLI_REPORT_OFF);
        $session = mysqli_init();
        if ($session === false || ! $session->real_connect('localhost', self::own(), '', $schema, 0, $socket)) {
            throw new RuntimeException('No session: '.($session === false ? '' : $session->error));
        }

        return $session;
    }

    /** The account a fresh server lets in by its socket. */
    private static function own(): string
    {
        return posix_getpwuid(posix_geteuid())['name'] ?? 'root';
    }

    private static function account(): string
    {
        return posix_geteuid() === 0 ? 'mysql' : self::own();
    }
}
