<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Telemetry\Sources\LineFile;
use PHPUnit\Framework\TestCase;

final class LineFileTest extends TestCase
{
    public function test_lines_of_every_length_come_whole_plain_and_compressed(): void
    {
        $lines = [
            "short\n",
            str_repeat('a', 8_190)."\n",
            str_repeat('b', 8_191)."\n",
            str_repeat('c', 8_192)."\n",
            str_repeat('d', 300_000)."\n",
            "\n",
            'no end',
        ];
        foreach ([implode('', $lines), (string) gzencode(implode('', $lines))] as $bytes) {
            file_put_contents($path = (string) tempnam(sys_get_temp_dir(), 'fulcrion'), $bytes);
            $file = new LineFile($path);
            $read = [];
            while (($line = $file->next()) !== null) {
                $read[] = $line;
            }
            self::assertSame($lines, $read);
            self::assertSame([strlen(implode('', $lines)), 7, $file->bytesRead], [$file->bytesRead, $file->line, $file->bytesTotal]);
            unlink($path);
        }
    }

    public function test_a_line_without_end_is_cut_and_the_file_goes_on(): void
    {
        file_put_contents(
            $path = (string) tempnam(sys_get_temp_dir(), 'fulcrion'),
            str_repeat('x', LineFile::MAX_LINE + 50_000)."\nnext\n",
        );
        $file = new LineFile($path);
        $read = [];
        while (($line = $file->next()) !== null) {
            $read[] = [strlen($line) < LineFile::MAX_LINE, $file->wasCut(), substr($line, 0, 4)];
        }
        self::assertSame([[true, true, 'xxxx'], [true, false, 'next']], $read);
        unlink($path);
    }
}
