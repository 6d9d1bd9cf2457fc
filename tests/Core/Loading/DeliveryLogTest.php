<?php

declare(strict_types=1);

namespace Tests\Core\Loading;

use Fulcrion\Core\Loading\DeliveryLog;
use Fulcrion\Core\Loading\TransferredFile;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class DeliveryLogTest extends TestCase
{
    private const DAY = 1_794_700_800_000_000;

    /**
     * @return iterable<string, array{string, list<TransferredFile>}>
     */
    public static function logs(): iterable
    {
        $file = static fn (int $bytes, float $from, float $to): TransferredFile => new TransferredFile($bytes,
            self::DAY + (int) ($from * 1e6),
            self::DAY + (int) ($to * 1e6));
        yield 'as documented' => ["file,bytes,started,ended\na,5,2026-11-15T00:00:01Z,2026-11-15T00:00:02.500Z\n", [$file(5, 1.0, 2.5)]];
        yield 'other columns in another order' => ["ended,node,bytes,started\n2026-11-15T00:00:02Z,7,5,2026-11-15T00:00:01Z",
            [$file(5, 1.0, 2.0)]];
        yield 'capitals in the header' => ["Bytes,Started,Ended\n5,2026-11-15T00:00:01Z,2026-11-15T00:00:02Z", [$file(5, 1.0, 2.0)]];
        yield 'seconds since 1970' => ["bytes,started,ended\n5,1794700801,1794700802.25", [$file(5, 1.0, 2.25)]];
        yield 'another zone' => ["bytes,started,ended\n5,2026-11-15T01:00:01+01:00,2026-11-15T00:00:02Z", [$file(5, 1.0, 2.0)]];
        yield 'lines of another system' => ["bytes,started,ended\r\n5,1794700801,1794700802\r\n\r\n6,1794700802,1794700803\r\n",
            [$file(5, 1.0, 2.0), $file(6, 2.0, 3.0)]];
        yield 'old lines' => ["bytes,started,ended\r5,1794700801,1794700802\r", [$file(5, 1.0, 2.0)]];
        yield 'a mark of the byte order' => ["\u{FEFF}bytes,started,ended\n5,1794700801,1794700802", [$file(5, 1.0, 2.0)]];
        yield 'quotes' => ["file,bytes,started,ended\n\"a, \"\"b\"\"\",5,\"1794700801\",1794700802", [$file(5, 1.0, 2.0)]];
        yield 'spaces' => ["bytes, started, ended\n 5 , 1794700801 , 1794700802 ", [$file(5, 1.0, 2.0)]];
        yield 'objects' => ['{"bytes":5,"started":1794700801,"ended":1794700802}'."\n"
            .'{"bytes":"6","started":"2026-11-15T00:00:02Z","ended":1794700803.5,"file":"x"}', [$file(5, 1.0, 2.0), $file(6, 2.0, 3.5)]];
        yield 'no bytes, in no time' => ["bytes,started,ended\n0,1794700801,1794700801", [$file(0, 1.0, 1.0)]];
        yield 'nothing' => ['', []];
        yield 'a header alone' => ["bytes,started,ended\n", []];
    }

    /**
     * @param  list<TransferredFile>  $files
     */
    #[DataProvider('logs')]
    public function test_a_log_is_read(string $text, array $files): void
    {
        $log = DeliveryLog::read($text);
        self::assertSame([], $log->complaints);
        self::assertEquals($files, $log->files);
    }

    /**
     * @return iterable<string, array{string, non-empty-string, int}> what is wrong, how it is told, files that are read still
     */
    public static function wrong(): iterable
    {
        $head = "bytes,started,ended\n5,1794700801,1794700802\n";
        yield 'a column is missing' => ["file,bytes\na,5", 'Line 1: the header lacks started and ended.', 0];
        yield 'no header' => ['5,1794700801,1794700802', 'Line 1: the header lacks bytes and started and ended.', 0];
        yield 'too few cells' => ["{$head}5,1794700801", 'Line 3: it has another number of cells than the header.', 1];
        yield 'too many cells' => ["{$head}5,1794700801,1794700802,x", 'Line 3: it has another number of cells than the header.', 1];
        yield 'bytes that are no number' => ["{$head}many,1794700801,1794700802", 'Line 3: bytes has to be a whole number.', 1];
        yield 'bytes below nothing' => ["{$head}-5,1794700801,1794700802", 'Line 3: bytes has to be a whole number.', 1];
        yield 'half a byte' => ["{$head}0.5,1794700801,1794700802", 'Line 3: bytes has to be a whole number.', 1];
        yield 'no moment' => ["{$head}5,yesterday,1794700802", 'Line 3: started has to be a moment, as 2026-11-15T01:30:00.250Z.', 1];
        yield 'no end' => ["{$head}5,1794700801,", 'Line 3: ended has to be a moment', 1];
        yield 'an end before the beginning' => ["{$head}5,1794700802,1794700801", 'Line 3: it ended before it started.', 1];
        yield 'an object without a field' => ['{"bytes":5,"started":1794700801}', 'Line 1: ended has to be a moment', 0];
        yield 'half an object' => ['{"bytes":5,', 'Line 1: it cannot be read as JSON.', 0];
        yield 'an object with a list' => ['{"bytes":[5],"started":1794700801,"ended":1794700802}',
            'Line 1: bytes has to be a whole number.', 0];
    }

    /**
     * @param  non-empty-string  $said
     */
    #[DataProvider('wrong')]
    public function test_what_cannot_be_read_is_told_with_its_line(string $text, string $said, int $read): void
    {
        $log = DeliveryLog::read($text);
        self::assertCount(1, $log->complaints);
        self::assertStringStartsWith($said, $log->complaints[0]);
        self::assertCount($read, $log->files);
    }

    public function test_of_many_complaints_the_first_are_told(): void
    {
        $log = DeliveryLog::read("bytes,started,ended\n".str_repeat("x,1,2\n", 500));
        self::assertCount(20, $log->complaints);
        self::assertSame([], $log->files);
    }

    public function test_whatever_is_sent_it_ends_in_files_and_complaints(): void
    {
        $random = new Randomizer(new Mt19937(14));
        $pieces = ['bytes', 'started', 'ended', ',', "\n", '"', '{', '}', ':', '5', '1794700801', 'x', "\0", "\xff", '[]', 'null',
            '1e400', ' '];
        for ($run = 0; $run < 1_000; $run++) {
            $text = $random->getInt(0, 1) === 1 ? "bytes,started,ended\n" : '';
            for ($length = $random->getInt(0, 30); $length > 0; $length--) {
                $text .= $pieces[$random->getInt(0, count($pieces) - 1)];
            }
            $log = DeliveryLog::read($text);
            foreach ($log->files as $file) {
                self::assertGreaterThanOrEqual(0, $file->bytes);
                self::assertGreaterThanOrEqual($file->startUs, $file->endUs);
            }
            self::assertLessThanOrEqual(20, count($log->complaints));
        }
    }
}
