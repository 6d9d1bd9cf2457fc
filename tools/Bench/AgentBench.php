<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Tools\Loopback;
use Illuminate\Support\Facades\File;
use RuntimeException;
use Symfony\Component\Process\Process;

/**
 * What the agent takes of the host it reads: readings a second apart, of which each takes as much as one of ten seconds does.
 */
final class AgentBench implements Measurement
{
    private const READINGS = 30;

    /** Seconds between two readings of the service. */
    private const EVERY = 10;

    public function name(): string
    {
        return 'agent';
    }

    public function run(Closure $say): iterable
    {
        $folder = sys_get_temp_dir().'/fulcrion-agent-'.bin2hex(random_bytes(4));
        mkdir($folder, 0o700);
        file_put_contents("{$folder}/token", 'bench');
        file_put_contents("{$folder}/router.php", '<?php $kept = __DIR__."/bytes"; file_put_contents($kept, (string) ((int) '
            .'@file_get_contents($kept) + (int) ($_SERVER["CONTENT_LENGTH"] ?? 0))); echo "{}";');
        $port = Loopback::freePort();
        $listener = new Process([PHP_BINARY, '-S', "127.0.0.1:{$port}", "{$folder}/router.php"]);
        $listener->start();
        try {
            for ($i = 0; $i < 100 && @fsockopen('127.0.0.1', $port) === false; $i++) {
                usleep(50_000);
            }
            $say('starting');
            [$start] = $this->cost($folder, $port, 1);
            $before = (int) file_get_contents("{$folder}/bytes");
            $say(self::READINGS.' readings, a second apart');
            [$all, $bytes] = $this->cost($folder, $port, 1 + self::READINGS);
            $each = ($all - $start) / self::READINGS;
            yield BenchFigure::of('processor time of a reading that is sent', $each * 1e3, 'ms');
            yield BenchFigure::atMost('of one processor at a reading every 10 s', 100 * $each / self::EVERY, 1, '%');
            yield BenchFigure::of('memory at most', $bytes / 1_048_576, 'MiB');
            $sent = (int) file_get_contents("{$folder}/bytes") - $before;
            yield BenchFigure::of('sent for a reading', $sent / (1 + self::READINGS) / 1_024, 'KiB');
        } finally {
            $listener->stop(0);
            File::deleteDirectory($folder);
        }
    }

    /**
     * @return array{float, float} seconds of processor time, and bytes of memory at most
     */
    private function cost(string $folder, int $port, int $count): array
    {
        $before = self::childSeconds();
        $agent = new Process([PHP_BINARY, base_path('bin/agent'), "--url=http://127.0.0.1:{$port}", "--token-file={$folder}/token",
            "--spool={$folder}/spool", '--every=1', "--count={$count}"]);
        $agent->setTimeout(300);
        $agent->start();
        $kib = 0;
        while ($agent->isRunning()) {
            $status = (string) @file_get_contents("/proc/{$agent->getPid()}/status");
            $kib = preg_match('~^VmHWM:\s+(\d+) kB~m', $status, $match) === 1 ? max($kib, (int) $match[1]) : $kib;
            usleep(100_000);
        }
        if ($agent->getExitCode() !== 0) {
            throw new RuntimeException("The agent ended badly: {$agent->getErrorOutput()}");
        }

        return [self::childSeconds() - $before, $kib * 1_024.0];
    }

    private static function childSeconds(): float
    {
        $usage = (array) getrusage(1);
        $at = static fn (string $name): int => (int) ($usage[$name] ?? 0);

        return $at('ru_utime.tv_sec') + $at('ru_stime.tv_sec') + ($at('ru_utime.tv_usec') + $at('ru_stime.tv_usec')) / 1e6;
    }
}
