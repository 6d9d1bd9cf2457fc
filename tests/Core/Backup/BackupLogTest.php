<?php

declare(strict_types=1);

namespace Tests\Core\Backup;

use Fulcrion\Core\Backup\Backup;
use Fulcrion\Core\Backup\BackupKind;
use Fulcrion\Core\Backup\BackupLog;
use Fulcrion\Core\Backup\ChecksumList;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class BackupLogTest extends TestCase
{
    private const DAY = 1_794_700_800_000_000;

    public function test_a_log_is_read_as_documented(): void
    {
        $csv = "plan,kind,schemas,started,ended,bytes,place,failed,removed\n"
            ."nightly,full,energy trade,2026-11-15T01:30:00Z,2026-11-15T02:10:00Z,5242880,/vault/1,,2026-11-29T02:00:00Z\n"
            ."hourly,Incremental,\"field; ref\",1794708000,1794708060.5,,,No space is left.,\n";
        $json = '{"plan":"all","schemas":["a b","c"],"started":1794700801,"ended":"2026-11-15T00:00:02Z","bytes":7}';
        $log = BackupLog::read($csv.$json);
        self::assertSame([], $log->complaints);
        self::assertEquals([
            new Backup('nightly', BackupKind::Full, ['energy', 'trade'], self::DAY + 5_400_000_000, self::DAY + 7_800_000_000, 5_242_880,
                '/vault/1', null, self::DAY + 14 * 86_400_000_000 + 7_200_000_000),
            new Backup('hourly', BackupKind::Incremental, ['field', 'ref'], self::DAY + 7_200_000_000, self::DAY + 7_260_500_000, null, '',
                'No space is left.'),
            new Backup('all', BackupKind::Full, ['a b', 'c'], self::DAY + 1_000_000, self::DAY + 2_000_000, 7),
        ], $log->backups);
    }

    /**
     * @return iterable<string, array{string, string}>
     */
    public static function wrong(): iterable
    {
        $line = static fn (string $with): string => '{"plan":"p","schemas":"s","started":1,"ended":2,'.$with.'}';
        yield 'no plan' => ['{"schemas":"s","started":1,"ended":2}', 'plan has to be a name'];
        yield 'a long plan' => [$line('"plan":"'.str_repeat('x', 121).'"'), 'plan has to be a name'];
        yield 'a plan that is a list' => [$line('"plan":["x"]'), 'plan has to be a name'];
        yield 'no schema' => [$line('"schemas":" , "'), 'schemas has to name at least one'];
        yield 'an empty schema' => [$line('"schemas":["a",""]'), 'schemas has to name at least one'];
        yield 'a schema that is an object' => [$line('"schemas":{"a":{}}'), 'schemas has to name at least one'];
        yield 'a long schema' => [$line('"schemas":"'.str_repeat('x', 121).'"'), 'the name of a schema has at most'];
        yield 'many schemas' => [$line('"schemas":"'.implode(' ', array_map(strval(...), range(1, 201))).'"'),
            'schemas names more than 200'];
        yield 'another kind' => [$line('"kind":"half"'), 'kind has to be full or incremental'];
        yield 'a part of a byte' => [$line('"bytes":1.5'), 'bytes has to be a whole number'];
        yield 'less than nothing' => [$line('"bytes":-1'), 'bytes has to be a whole number'];
        yield 'no start' => ['{"plan":"p","schemas":"s","ended":2}', 'started has to be a moment'];
        yield 'a strange end' => [$line('"ended":"soon"'), 'ended has to be a moment'];
        yield 'a strange removal' => [$line('"removed":"soon"'), 'removed has to be a moment'];
        yield 'backwards' => [$line('"ended":0'), 'it ended before it started'];
        yield 'removed before it was there' => [$line('"removed":1.5'), 'it was removed before it ended'];
        yield 'half an object' => ['{"plan":', 'it cannot be read as JSON'];
        yield 'a header that lacks' => ['plan,started,ended', 'the header lacks schemas'];
    }

    #[DataProvider('wrong')]
    public function test_what_cannot_be_read_is_told_with_its_line_and_the_rest_is_kept(string $line, string $said): void
    {
        $good = '{"plan":"p","schemas":"s","started":1,"ended":2}';
        $log = BackupLog::read("\n{$line}\n{$good}\n");
        self::assertCount(1, $log->complaints);
        self::assertStringStartsWith("Line 2: {$said}", $log->complaints[0]);
        self::assertCount(str_starts_with($line, 'plan,') ? 0 : 1, $log->backups);
    }

    public function test_a_log_has_an_end(): void
    {
        $log = BackupLog::read(str_repeat('{"plan":"p","schemas":"s","started":1,"ended":2}'."\n", BackupLog::MOST + 5));
        self::assertCount(BackupLog::MOST, $log->backups);
        self::assertSame(['Line 10001: there are at most 10000 backups in a log; the rest was left out.'], $log->complaints);
    }

    public function test_a_list_of_checksums_is_what_sha256sum_writes(): void
    {
        $folder = sys_get_temp_dir().'/fulcrion-sums-'.bin2hex(random_bytes(4));
        mkdir("{$folder}/deep", recursive: true);
        $files = ['plain.bin' => 'a', 'with blank.bin' => 'b', "line\nend" => 'c', 'back\\slash' => 'd', 'deep/é.bin' => 'e', '007' => 'f'];
        foreach ($files as $name => $text) {
            file_put_contents("{$folder}/{$name}", $text);
        }
        $written = (string) shell_exec('cd '.escapeshellarg($folder).' && find . -type f -print0 | xargs -0 sha256sum');
        $binary = (string) shell_exec('cd '.escapeshellarg($folder).' && sha256sum --binary plain.bin');
        exec('rm -rf '.escapeshellarg($folder));
        $list = ChecksumList::read($written.$binary."\r\n");
        self::assertSame([], $list->complaints);
        $expected = array_map(static fn (string $text): string => hash('sha256', $text), $files);
        ksort($expected);
        $found = $list->digests;
        ksort($found);
        self::assertSame($expected, $found);
    }

    public function test_lines_that_are_no_checksums_and_files_elsewhere_are_refused(): void
    {
        $sum = str_repeat('A', 64);
        $list = ChecksumList::read("{$sum}  good\n{$sum} nothing\nshort  x\n{$sum}  /etc/passwd\n{$sum}  a/../../b\n".str_repeat('b', 64)
            ."  good\n{$sum}  ..still a name\n");
        self::assertSame(['good' => strtolower($sum), '..still a name' => strtolower($sum)], $list->digests);
        self::assertSame([
            'Line 2: this is not a checksum of SHA-256 with the name of a file.',
            'Line 3: this is not a checksum of SHA-256 with the name of a file.',
            'Line 4: the file lies outside the folder of the list.',
            'Line 5: the file lies outside the folder of the list.',
            'Line 6: this file has two different checksums.',
        ], $list->complaints);
    }
}
