<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Connectors\SourceError;
use App\Platform\Support\OpenFolders;
use Fulcrion\Core\Text\Parts;
use Illuminate\Support\Facades\File;
use ZipArchive;

/**
 * Folders of Parquet files people pointed at or sent. Only folders below configured roots can be pointed at.
 */
final readonly class Folders
{
    private const MOST_FILES = 20_000;

    private const MOST_BYTES = 8_589_934_592;

    /**
     * @return array<string, string> name => path
     */
    public function all(): array
    {
        $all = [];
        foreach (File::glob($this->home().'/*', GLOB_NOSORT) as $entry) {
            $all[basename($entry, '.path')] = str_ends_with($entry, '.path')
                ? trim((string) file_get_contents($entry))
                : 'sent as a zip file';
        }
        ksort($all);

        return $all;
    }

    public function path(string $name): ?string
    {
        if (! self::isName($name)) {
            return null;
        }
        $pointer = $this->home()."/{$name}.path";
        if (is_file($pointer)) {
            return OpenFolders::real(trim((string) file_get_contents($pointer)));
        }

        return is_dir($this->home()."/{$name}") ? $this->home()."/{$name}" : null;
    }

    /** @throws SourceError */
    public function point(string $path): string
    {
        $real =
            OpenFolders::real($path) ??
            throw new SourceError(
                'Only folders below '.
                    Parts::first(implode(', ', OpenFolders::roots()), 'the roots named in FULCRION_LAKE (none is)').
                    ' can be pointed at.',
            );
        $name = $this->name(basename($real));
        file_put_contents($this->home()."/{$name}.path", $real);

        return $name;
    }

    /** @throws SourceError */
    public function unpack(string $zipPath, string $originalName): string
    {
        $zip = new ZipArchive();
        if ($zip->open($zipPath) !== true) {
            throw new SourceError('The file is no zip file, or it is damaged. Nothing was kept.');
        }
        $sum = 0;
        for ($i = 0; $i < $zip->numFiles; $i++) {
            $sum += (int) ($zip->statIndex($i)['size'] ?? 0);
        }
        if ($zip->numFiles > self::MOST_FILES || $sum > self::MOST_BYTES) {
            throw new SourceError(
                'The zip file holds more than '.self::MOST_FILES.' files or 8 GiB. Nothing was kept; point at a folder instead.',
            );
        }
        $name = $this->name(pathinfo($originalName, PATHINFO_FILENAME));
        $home = $this->home()."/{$name}";
        mkdir($home, 0700, true);
        // What the archive says of its sizes need not be true.
        $left = self::MOST_BYTES;
        for ($i = 0; $i < $zip->numFiles; $i++) {
            $entry = (string) $zip->getNameIndex($i);
            // Names in archives are not to be trusted: whatever would leave the folder is left out.
            if (
                str_ends_with($entry, '/') ||
                str_contains($entry, '..') ||
                str_contains($entry, '\\') ||
                str_contains($entry, "\0") ||
                str_starts_with($entry, '/')
            ) {
                continue;
            }
            $target = "{$home}/{$entry}";
            is_dir(dirname($target)) || @mkdir(dirname($target), 0700, true);
            $from = $zip->getStream($entry);
            $to = $from === false ? false : fopen($target, 'wb');
            while ($from !== false && $to !== false && $left >= 0 && ($piece = fread($from, 1 << 20)) !== false && $piece !== '') {
                $left -= strlen($piece);
                fwrite($to, $piece);
            }
            if ($to !== false) {
                fclose($to);
            }
            if ($left < 0) {
                $this->forget($name);
                throw new SourceError(
                    'The zip file unpacks to more than 8 GiB, though it says otherwise. Nothing was kept; point at a folder instead.',
                );
            }
        }

        return $name;
    }

    public function forget(string $name): void
    {
        if (! self::isName($name)) {
            return;
        }
        @unlink($this->home()."/{$name}.path");
        $sent = $this->home()."/{$name}";
        if (is_dir($sent)) {
            foreach (
                new \RecursiveIteratorIterator(
                    new \RecursiveDirectoryIterator($sent, \FilesystemIterator::SKIP_DOTS),
                    \RecursiveIteratorIterator::CHILD_FIRST,
                ) as $file
            ) {
                $file->isDir() ? rmdir($file->getPathname()) : unlink($file->getPathname());
            }
            rmdir($sent);
        }
    }

    /** As name() makes them: nothing that leads out of the home of the folders. */
    private static function isName(string $name): bool
    {
        return preg_match('~^[a-z0-9][a-z0-9-]*$~D', $name) === 1;
    }

    private function name(string $wanted): string
    {
        $base = Parts::first(trim((string) preg_replace('~[^a-z0-9]+~', '-', mb_strtolower($wanted)), '-'), 'folder');
        $name = mb_strcut($base, 0, 60);
        for ($i = 2; is_dir($this->home()."/{$name}") || is_file($this->home()."/{$name}.path"); $i++) {
            $name = mb_strcut($base, 0, 60)."-{$i}";
        }

        return $name;
    }

    private function home(): string
    {
        $home = storage_path('app/folders');
        is_dir($home) || mkdir($home, 0700, true);

        return $home;
    }
}
