<?php

declare(strict_types=1);

namespace Fulcrion\Tools;

use Closure;
use Illuminate\Support\Facades\DB;
use RuntimeException;

/**
 * The same work in several processes that begin at one moment, each with a connection of its own.
 */
final class Forks
{
    /**
     * @template T of array<mixed>|int|float|string|bool|null
     *
     * @param  Closure(int): T  $work is given the number of its process
     * @return list<T> what each gave, in their order
     */
    public static function run(int $count, Closure $work): array
    {
        $folder = sys_get_temp_dir().'/fulcrion-forks-'.bin2hex(random_bytes(4));
        mkdir($folder, 0o700);
        // A connection that two processes share is one neither can use.
        DB::disconnect();
        $children = [];
        for ($i = 0; $i < $count; $i++) {
            $child = pcntl_fork();
            if ($child === 0) {
                self::child($folder, $i, $work);
            }
            $children[] = $child;
        }
        touch("{$folder}/begin");
        foreach ($children as $child) {
            pcntl_waitpid($child, $status);
        }
        $given = [];
        for ($i = 0; $i < $count; $i++) {
            $text = @file_get_contents("{$folder}/{$i}");
            $given[] = $text === false ? null : json_decode($text, true)['given'] ?? null;
        }
        exec('rm -rf '.escapeshellarg($folder));
        if (in_array(null, $given, true)) {
            throw new RuntimeException('A process ended without an answer.');
        }

        return $given;
    }

    private static function child(string $folder, int $number, Closure $work): never
    {
        try {
            while (! file_exists("{$folder}/begin")) {
                usleep(1_000);
            }
            file_put_contents("{$folder}/{$number}", json_encode(['given' => $work($number)], JSON_THROW_ON_ERROR));
        } catch (\Throwable $error) {
            fwrite(STDERR, "process {$number}: {$error->getMessage()}\n");
        } finally {
            // Nothing of the parent may be ended twice.
            posix_kill(posix_getpid(), SIGKILL);
            exit;
        }
    }
}
