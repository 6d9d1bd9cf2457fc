<?php

declare(strict_types=1);

namespace Tests\Browser;

use RuntimeException;

/**
 * The loaded demo of one process for another one that runs beside it: taking it takes a fifth of the time loading it does.
 */
final readonly class DemoCopy
{
    private const PATIENCE_SECONDS = 900;

    private string $dump;

    /** Says that all is there; with a text in it where there is nothing to wait for any more. */
    private string $ready;

    /**
     * @param  array<string, string>  $environment names of the schema and its account
     */
    public function __construct(private string $root, private array $environment)
    {
        $this->dump = "{$root}/var/browser-demo.sql";
        $this->ready = "{$root}/var/browser-demo.ready";
    }

    /**
     * @param  list<string>  $folders of the application it was loaded for
     */
    public function give(array $folders): void
    {
        $this->run('mariadb-dump', '--single-transaction --skip-lock-tables --skip-add-locks --no-tablespaces --skip-comments',
            ' > '.escapeshellarg($this->dump));
        foreach ($folders as $place => $folder) {
            $this->shell('rm -rf '.escapeshellarg("{$this->dump}.{$place}").' && cp -a '.escapeshellarg($folder).' '
                .escapeshellarg("{$this->dump}.{$place}"));
        }
        touch($this->ready);
    }

    public function failed(string $why): void
    {
        file_put_contents($this->ready, $why);
    }

    /**
     * @param  list<string>  $folders of the application it is taken for, in the same order
     */
    public function take(array $folders): void
    {
        for ($i = 0; ! is_file($this->ready) && $i < self::PATIENCE_SECONDS; $i++) {
            sleep(1);
            clearstatcache();
        }
        $why = is_file($this->ready) ? (string) file_get_contents($this->ready) : 'Nobody loaded the demo.';
        if ($why !== '') {
            throw new RuntimeException("There is no demo to take: {$why}");
        }
        foreach ($folders as $place => $folder) {
            $this->shell('rm -rf '.escapeshellarg($folder).' && mv '.escapeshellarg("{$this->dump}.{$place}").' '.escapeshellarg($folder));
        }
        $this->run('mariadb', '', ' < '.escapeshellarg($this->dump));
        unlink($this->dump);
        unlink($this->ready);
    }

    private function run(string $program, string $options, string $way): void
    {
        $this->shell("{$program} --no-defaults --socket=".escapeshellarg("{$this->root}/var/db/db.sock").' --user='
            .escapeshellarg($this->environment['DB_USERNAME'])." {$options} ".escapeshellarg($this->environment['DB_DATABASE']).$way);
    }

    private function shell(string $command): void
    {
        $process = proc_open(['bash', '-c', $command], [2 => ['pipe', 'w']], $pipes, $this->root,
            ['MYSQL_PWD' => $this->environment['DB_PASSWORD']] + getenv());
        assert($process !== false);
        $said = stream_get_contents($pipes[2]);
        if (proc_close($process) !== 0) {
            throw new RuntimeException("The demo could not be copied: {$said}");
        }
    }
}
