<?php

declare(strict_types=1);

namespace App\Backup\Application;

use App\Estate\Connectors\SourceError;
use App\Platform\Support\OpenFolders;
use Closure;
use FilesystemIterator;
use Fulcrion\Core\Backup\ChecksumList;
use RecursiveDirectoryIterator;
use RecursiveIteratorIterator;
use SplFileInfo;

/**
 * Reads every file of a folder and holds it against the checksum its list says.
 */
final readonly class FolderCheck
{
    private const MOST_LIST_BYTES = 64_000_000;

    private const PIECE = 4_000_000;

    /**
     * @param  list<string>  $damage of what differs, is missing or cannot be read, with its name
     * @param  int  $files that agree
     * @param  int  $others in the folder that the list does not name
     */
    private function __construct(public array $damage, public int $files, public int $bytes, public int $others)
    {
    }

    /**
     * @param  Closure(string, float): void  $tells what is read and how much of it is done; ends the work by what it throws
     *
     * @throws SourceError
     */
    public static function of(string $place, Closure $tells): self
    {
        $folder = OpenFolders::real($place)
            ?? throw new SourceError('The folder of this backup is not there, or is none this installation opens (FULCRION_LAKE).');
        $list = self::list($folder);
        $damage = [];
        $files = $bytes = $done = 0;
        // Names that are numbers are keys that are numbers.
        $all = max(1, array_sum(array_map(static fn (int|string $name): int => (int) @filesize("{$folder}/{$name}"), array_keys($list))));
        foreach ($list as $name => $digest) {
            $name = (string) $name;
            $path = realpath("{$folder}/{$name}");
            if ($path === false) {
                $damage[] = "{$name} is missing";
            } elseif (! str_starts_with($path, "{$folder}/") || ! is_file($path)) {
                $damage[] = "{$name} is no file of this folder";
            } else {
                [$found, $read] = self::digest($path,
                    static fn (int $soFar) => $tells('reading '.mb_scrub($name), ($done + $soFar) / $all));
                $done += $read;
                if ($found === $digest) {
                    $files++;
                    $bytes += $read;
                } else {
                    $damage[] = $found === null ? "{$name} cannot be read to its end" : "{$name} differs from its checksum";
                }
            }
        }

        return new self($damage, $files, $bytes, self::others($folder, $list));
    }

    /**
     * @return non-empty-array<array-key, string>
     *
     * @throws SourceError
     */
    private static function list(string $folder): array
    {
        $path = "{$folder}/".ChecksumList::NAME;
        if (! is_file($path) || ! str_starts_with((string) realpath($path), "{$folder}/")) {
            throw new SourceError('There is no '.ChecksumList::NAME.' in the folder of this backup. Let whoever takes it write one: '
                .'sha256sum * > '.ChecksumList::NAME);
        }
        $text = filesize($path) > self::MOST_LIST_BYTES ? false : @file_get_contents($path);
        $list = ChecksumList::read($text === false ? throw new SourceError(ChecksumList::NAME.' cannot be read, or has over 64 MB.')
            : $text);
        if ($list->complaints !== []) {
            throw new SourceError(ChecksumList::NAME.': '.mb_scrub($list->complaints[0]));
        }

        return $list->digests === [] ? throw new SourceError(ChecksumList::NAME.' names no file.') : $list->digests;
    }

    /**
     * @param  Closure(int): void  $tells
     * @return array{string|null, int} null where it cannot be read; and how many bytes were
     */
    private static function digest(string $path, Closure $tells): array
    {
        $file = @fopen($path, 'rb');
        if ($file === false) {
            return [null, 0];
        }
        try {
            $hash = hash_init('sha256');
            $read = 0;
            while (! feof($file)) {
                $piece = @fread($file, self::PIECE);
                if ($piece === false) {
                    return [null, $read];
                }
                hash_update($hash, $piece);
                $read += strlen($piece);
                $tells($read);
            }

            return [hash_final($hash), $read];
        } finally {
            fclose($file);
        }
    }

    /**
     * @param  array<array-key, string>  $list
     */
    private static function others(string $folder, array $list): int
    {
        $others = 0;
        $found = new RecursiveIteratorIterator(new RecursiveDirectoryIterator($folder, FilesystemIterator::SKIP_DOTS),
            RecursiveIteratorIterator::LEAVES_ONLY, RecursiveIteratorIterator::CATCH_GET_CHILD);
        foreach ($found as $file) {
            $name = $file instanceof SplFileInfo ? substr($file->getPathname(), strlen($folder) + 1) : '';
            $others += (int) ($name !== '' && $name !== ChecksumList::NAME && ! isset($list[$name]));
        }

        return $others;
    }
}
