<?php

declare(strict_types=1);

namespace App\Telemetry\Sources;

use RuntimeException;

/**
 * Opens a file as the text it holds, whether it is compressed or not.
 */
final class PlainOrGzip
{
    /**
     * @return array{resource, int, GunzipState} handle, how many bytes of text there are as far as the file tells,
     *     and what became of unpacking it
     *
     * @throws RuntimeException when the file cannot be read
     */
    public static function open(string $path): array
    {
        if (! is_file($path) || ! is_readable($path)) {
            throw new RuntimeException("The file {$path} does not exist or may not be read.");
        }
        $handle = fopen($path, 'rb');
        if ($handle === false) {
            throw new RuntimeException("The file {$path} cannot be opened.");
        }
        $size = (int) filesize($path);
        $state = new GunzipState();
        if (fread($handle, 2) !== "\x1f\x8b") {
            rewind($handle);

            return [$handle, $size, $state];
        }
        if ($size > 18) {
            // The last four bytes tell the plain size (modulo 4 GiB): good enough to show progress by.
            fseek($handle, -4, SEEK_END);
            $size = max($size, unpack('V', (string) fread($handle, 4))[1] ?? 0);
        }
        fclose($handle);
        if (! in_array(Gunzip::SCHEME, stream_get_wrappers(), true)) {
            stream_wrapper_register(Gunzip::SCHEME, Gunzip::class);
        }
        $handle = fopen(Gunzip::SCHEME."://{$path}", 'rb', false, stream_context_create([Gunzip::SCHEME => ['state' => $state]]));

        return $handle === false ? throw new RuntimeException("The compressed file {$path} cannot be opened.") : [$handle, $size, $state];
    }
}
