<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use RuntimeException;

/**
 * A program that loads a server while something else is done.
 */
final class LoadProcess
{
    /** @var resource */
    private $process;

    private readonly string $file;

    private bool $hasEnded = false;

    /**
     * @param  list<string>  $command
     */
    public function __construct(array $command)
    {
        $this->file = (string) tempnam(sys_get_temp_dir(), 'load');
        $process = proc_open($command, [['file', '/dev/null', 'r'], ['file', $this->file, 'w'], ['file', $this->file, 'a']], $pipes);
        if (! is_resource($process)) {
            throw new RuntimeException("{$command[0]} could not be started.");
        }
        $this->process = $process;
    }

    public function isRunning(): bool
    {
        if (! $this->hasEnded) {
            $this->hasEnded = ! proc_get_status($this->process)['running'];
        }

        return ! $this->hasEnded;
    }

    public function wait(): void
    {
        while ($this->isRunning()) {
            usleep(50_000);
        }
    }

    /** All it has said, after it ended. */
    public function output(): string
    {
        $this->wait();
        $text = (string) file_get_contents($this->file);
        @unlink($this->file);

        return $text;
    }
}
