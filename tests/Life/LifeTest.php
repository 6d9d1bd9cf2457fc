<?php

declare(strict_types=1);

namespace Tests\Life;

use Fulcrion\Core\Text\Parts;
use Fulcrion\Practice\Storage\Paths;
use Fulcrion\Tools\Loopback;
use PDO;
use PHPUnit\Framework\TestCase;
use Symfony\Component\Process\Process;

/**
 * Starting and stopping, as people do it, in a copy of the application with a database of its own.
 */
final class LifeTest extends TestCase
{
    private const PARTS = ['db', 'php', 'web', 'interactive', 'worker', 'scheduler'];

    private const COPIED = [
        'app',
        'bin',
        'bootstrap',
        'compat',
        'config',
        'core',
        'database',
        'public',
        'resources',
        'server',
        'standin',
        'artisan',
        'fulcrion',
        'composer.json',
        'package.json',
        'vite.config.js',
    ];

    private string $root;

    private string $port;

    private ?Process $stranger = null;

    protected function setUp(): void
    {
        $this->root = sys_get_temp_dir().'/fulcrion-life-'.bin2hex(random_bytes(4));
        $this->port = (string) Loopback::freePort();
        mkdir($this->root, 0o755);
        $from = dirname(__DIR__, 2);
        foreach (self::COPIED as $name) {
            if (file_exists("{$from}/{$name}")) {
                (new Process(['cp', '-a', "{$from}/{$name}", "{$this->root}/{$name}"]))->mustRun();
            }
        }
        foreach (Paths::matching("{$this->root}/bootstrap/cache/*.php") as $cached) {
            unlink($cached);
        }
        symlink("{$from}/vendor", "{$this->root}/vendor");
        symlink("{$from}/node_modules", "{$this->root}/node_modules");
    }

    protected function tearDown(): void
    {
        $this->fulcrion('stop');
        foreach (self::PARTS as $part) {
            // What a failed test left.
            $pid = $this->pid($part);
            $pid !== null && str_contains($this->commandOf($pid), $this->root) && posix_kill($pid, SIGKILL);
        }
        $this->stranger?->stop(0);
        (new Process(['rm', '-rf', $this->root]))->run();
    }

    public function test_start_mends_what_died_stop_ends_what_it_began_and_status_tells_the_truth(): void
    {
        [$status, $text] = $this->fulcrion('status');
        self::assertSame([1, true], [$status, str_contains($text, 'web does not run')], $text);
        [$status, $text] = $this->start();
        self::assertSame(0, $status, $text);
        self::assertStringContainsString('Fulcrion is ready', $text);
        self::assertSame(200, $this->answer());
        self::assertSame(0, $this->fulcrion('status')[0]);
        $this->sql('CREATE TABLE marker (n INT); INSERT INTO marker VALUES (46)');
        $pids = array_map($this->pid(...), self::PARTS);
        self::assertStringContainsString('already running', $this->start()[1]);
        self::assertSame($pids, array_map($this->pid(...), self::PARTS), 'nothing is begun twice');

        foreach (['php', 'web', 'worker', 'db'] as $part) {
            $this->kill($part);
            [$status, $text] = $this->fulcrion('status');
            self::assertSame(1, $status);
            self::assertStringContainsString("{$part} does not run", $text);
            [$status, $text] = $this->start();
            self::assertSame(0, $status, $text);
            self::assertStringContainsString("Starting again what had ended: {$part}", $text);
            self::assertSame([0, 200], [$this->fulcrion('status')[0], $this->answer()], $part);
        }

        array_map($this->kill(...), self::PARTS);
        self::assertSame(0, $this->answer());
        // Two at once: the second waits for the first and finds all done.
        $both = [$this->process('start', '--no-demo', '--port', $this->port), $this->process('start', '--no-demo', '--port', $this->port)];
        foreach ($both as $one) {
            $one->start();
        }
        foreach ($both as $one) {
            self::assertSame(0, $one->wait(), $one->getOutput().$one->getErrorOutput());
        }
        self::assertStringContainsString('already running', $both[0]->getOutput().$both[1]->getOutput());
        self::assertSame([0, 200], [$this->fulcrion('status')[0], $this->answer()]);
        self::assertSame('46', $this->sql('SELECT n FROM marker'));

        // A number left in a file may belong to somebody else by now.
        $pids = array_map($this->pid(...), self::PARTS);
        $this->stranger = new Process(['sleep', '600']);
        $this->stranger->start();
        $this->kill('scheduler');
        file_put_contents("{$this->root}/var/run/scheduler.pid", $this->stranger->getPid());
        self::assertSame(0, $this->fulcrion('stop')[0]);
        self::assertTrue($this->stranger->isRunning(), 'nothing else is ended');
        self::assertSame(0, $this->answer());
        foreach ($pids as $pid) {
            self::assertFalse($this->lives((int) $pid), "process {$pid} was left");
        }
        self::assertSame([], $this->left());
        self::assertSame(1, $this->fulcrion('status')[0]);
    }

    /**
     * @return array{int, string}
     */
    private function start(): array
    {
        return $this->fulcrion('start', '--no-demo', '--port', $this->port);
    }

    /**
     * @return array{int, string} exit code, what was printed
     */
    private function fulcrion(string ...$arguments): array
    {
        $process = $this->process(...$arguments);

        return [$process->run(), $process->getOutput().$process->getErrorOutput()];
    }

    private function process(string ...$arguments): Process
    {
        // Nothing of the test's own settings.
        $environment = array_fill_keys(
            array_keys(
                array_filter(
                    getenv(),
                    static fn (string $name): bool => preg_match('~^(APP_|DB_|CACHE_|SESSION_|QUEUE_|MAIL_|FULCRION_)~', $name) === 1,
                    ARRAY_FILTER_USE_KEY,
                ),
            ),
            false,
        );

        return new Process(["{$this->root}/fulcrion", ...$arguments], $this->root, $environment, null, 120);
    }

    private function answer(): int
    {
        $curl = curl_init("http://127.0.0.1:{$this->port}/up");
        assert($curl !== false);
        curl_setopt_array($curl, [CURLOPT_RETURNTRANSFER => true, CURLOPT_TIMEOUT => 5]);
        curl_exec($curl);

        return (int) curl_getinfo($curl, CURLINFO_RESPONSE_CODE);
    }

    private function sql(string $sql): string
    {
        preg_match_all('~^(DB_DATABASE|DB_USERNAME|DB_PASSWORD)="?([^"\n]*)~m', (string) file_get_contents("{$this->root}/.env"), $found);
        $settings = array_combine($found[1], $found[2]);
        $pdo = new PDO(
            "mysql:unix_socket={$this->root}/var/db/db.sock;dbname={$settings['DB_DATABASE']}",
            $settings['DB_USERNAME'],
            $settings['DB_PASSWORD'],
        );
        $result = $pdo->query($sql);

        return $result === false || $result->columnCount() === 0 ? '' : (string) $result->fetchColumn();
    }

    private function pid(string $part): ?int
    {
        $pid = (int) @file_get_contents("{$this->root}/var/run/{$part}.pid");

        return $pid > 1 ? $pid : null;
    }

    private function kill(string $part): void
    {
        $pid = $this->pid($part);
        self::assertNotNull($pid, $part);
        posix_kill(-$pid, SIGKILL) || posix_kill($pid, SIGKILL);
        for ($i = 0; $i < 100 && $this->lives($pid); $i++) {
            usleep(20_000);
        }
    }

    private function lives(int $pid): bool
    {
        return $pid > 1 && $this->commandOf($pid) !== '';
    }

    private function commandOf(int $pid): string
    {
        return strtr((string) @file_get_contents("/proc/{$pid}/cmdline"), "\0", ' ');
    }

    /**
     * @return list<string> processes that run in the copy
     */
    private function left(): array
    {
        $left = [];
        foreach (Paths::matching('/proc/[0-9]*') as $process) {
            if (@readlink("{$process}/cwd") === $this->root) {
                $left[] = $this->commandOf((int) basename($process));
            }
        }

        return Parts::said($left);
    }
}
