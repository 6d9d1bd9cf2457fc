<?php

declare(strict_types=1);

namespace Fulcrion\Tools;

use Fulcrion\Practice\Storage\Paths;
use RuntimeException;

/**
 * nginx and PHP-FPM for one purpose, such as a test or a measurement, as the command line starts them for people.
 */
final class WebServer
{
    /** @var list<resource> */
    private array $processes = [];

    private function __construct(private readonly string $directory, public readonly string $base)
    {
    }

    /**
     * @param  array<string, string>  $environment of the application
     *
     * @throws RuntimeException when no page is answered
     */
    public static function start(array $environment, int $children = 4): self
    {
        $directory = sys_get_temp_dir().'/fulcrion-web-'.bin2hex(random_bytes(4));
        mkdir($directory, 0o700);
        $address = '127.0.0.1:'.Loopback::freePort();
        $server = new self($directory, "http://{$address}");
        exec(
            implode(
                ' ',
                array_map(escapeshellarg(...), [
                    PHP_BINARY,
                    dirname(__DIR__).'/bin/server.php',
                    $directory,
                    $directory,
                    $address,
                    (string) $children,
                ]),
            ).' 2>&1',
            $output,
            $status,
        );
        if ($status !== 0) {
            throw new RuntimeException('The web server could not be set up: '.implode(' ', $output));
        }
        $fpm = '/usr/sbin/php-fpm'.PHP_MAJOR_VERSION.'.'.PHP_MINOR_VERSION;
        foreach (
            [
                [$fpm, '--nodaemonize', '--allow-to-run-as-root', '--fpm-config', "{$directory}/php-fpm.conf"],
                ['/usr/sbin/nginx', '-c', "{$directory}/nginx.conf", '-g', 'daemon off;'],
            ] as $command
        ) {
            $process = proc_open(
                $command,
                [['file', '/dev/null', 'r'], ['file', "{$directory}/out.log", 'a'], ['file', "{$directory}/out.log", 'a']],
                $pipes,
                $directory,
                $environment,
            );
            $server->processes[] = $process === false ? throw new RuntimeException("{$command[0]} does not start.") : $process;
        }
        for ($i = 0; $i < 100; $i++) {
            if (@file_get_contents("{$server->base}/up") !== false) {
                return $server;
            }
            usleep(100_000);
        }
        $log = implode(
            ' ',
            array_map(static fn (string $file): string => (string) @file_get_contents($file), Paths::matching("{$directory}/*.log")),
        );
        $server->stop();
        throw new RuntimeException('The web server does not answer: '.substr($log, -2000));
    }

    public function stop(): void
    {
        foreach (array_reverse($this->processes) as $process) {
            proc_terminate($process);
            for ($i = 0; $i < 50 && proc_get_status($process)['running']; $i++) {
                usleep(20_000);
            }
        }
        $this->processes = [];
        exec('rm -rf '.escapeshellarg($this->directory));
    }
}
