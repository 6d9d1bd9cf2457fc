<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Telemetry\Sources\CsvSource;
use App\Telemetry\Sources\DamagedFile;
use App\Telemetry\Sources\Gunzip;
use App\Telemetry\Sources\LineFile;
use Fulcrion\Core\Telemetry\ColumnMap;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Telemetry\Rejection;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Tables in files that are not what they should be: no line is lost without being told.
 */
final class CsvSourceTest extends TestCase
{
    private const HEAD = 'started_at,duration_us,sql,user';

    /** Lines that the records read last were made of. */
    private int $lines = 0;

    public function test_one_stray_quote_loses_its_own_line_only(): void
    {
        $row = static fn (int $i): string => "2026-11-20T06:00:0{$i}Z,{$i}0,SELECT {$i},ada";
        $found = $this->read([
            $row(1),
            '2026-11-20T06:00:02Z,20,"SELECT 2,ada',
            $row(3),
            $row(4),
            "2026-11-20T06:00:05Z,50,SELECT \"a\" || '\"',ada",
            $row(6),
        ]);
        self::assertSame(
            ['SELECT 1', 'line 3: has a quote that is not closed', 'SELECT 3', 'SELECT 4', "SELECT \"a\" || '\"'", 'SELECT 6'],
            array_values($found),
        );
    }

    public function test_texts_over_several_lines_are_whole_and_lines_behind_a_stray_quote_are_told(): void
    {
        $found = $this->read([
            "2026-11-20T06:00:01Z,10,\"SELECT a, b, c\nFROM t\n\nWHERE x = \"\"1\"\"\",ada",
            '2026-11-20T06:00:02Z,20,"SELECT 2,ada',
            'no record, and none',
            '',
            '2026-11-20T06:00:03Z,30,"SELECT 3",bo',
            '2026-11-20T06:00:04Z,40,"SELECT 4',
        ]);
        self::assertSame(
            [
                "SELECT a, b, c\nFROM t\n\nWHERE x = \"1\"",
                'line 6: has a quote that is not closed',
                'line 7: follows a quote in line 6 that is not closed',
                'SELECT 3',
                'line 10: has a quote that is not closed',
            ],
            array_values($found),
        );
    }

    public function test_whatever_quotes_are_strewn_in_every_line_is_taken_or_told(): void
    {
        $random = new Randomizer(new Mt19937(4));
        for ($round = 0; $round < 200; $round++) {
            $lines = [];
            for ($i = 0; $i < 30; $i++) {
                $line = sprintf('2026-11-20T06:00:%02dZ,%d,SELECT %d,ada', $i, $i + 1, $i);
                $lines[] = $random->getInt(0, 5) === 0 ? substr_replace($line, '"', $random->getInt(0, strlen($line)), 0) : $line;
            }
            $whole = count(array_filter($lines, static fn (string $line): bool => ! str_contains($line, '"')));
            $found = $this->read($lines);
            self::assertGreaterThanOrEqual(
                $whole,
                count(array_filter($found, static fn (string $one): bool => str_starts_with($one, 'SELECT'))),
                implode("\n", $lines),
            );
            // Two quotes in two lines may well be the ends of one cell.
            self::assertSame(30, $this->lines, 'every line is in a record or told');
        }
    }

    public function test_a_damaged_gzip_gives_what_is_whole_and_says_where_it_ends(): void
    {
        $text = self::HEAD."\n";
        for ($i = 0; $i < 4000; $i++) {
            $text .= gmdate('Y-m-d\TH:i:s\Z', 1_795_000_000 + $i).",{$i},SELECT ".md5((string) $i).",ada\n";
        }
        $packed = (string) gzencode($text);
        [, $all] = $this->unpack($packed);
        self::assertNull($all);
        foreach ([20, 1000, intdiv(strlen($packed), 2), strlen($packed) - 4] as $cut) {
            [$records, $damage] = $this->unpack(substr($packed, 0, $cut));
            self::assertStringContainsString("The gzip file is cut off at byte {$cut}", (string) $damage?->getMessage());
            self::assertStringContainsString('behind line ', (string) $damage?->getMessage());
            self::assertSame(
                [],
                array_filter(
                    $records,
                    static fn (Execution|Rejection $one): bool => ! ($one instanceof Execution) ||
                        preg_match('~^SELECT [0-9a-f]{32}$~', $one->sql) !== 1,
                ),
                'no record is half',
            );
        }
        $broken = $packed;
        $broken[intdiv(strlen($packed), 2)] = chr(ord($broken[intdiv(strlen($packed), 2)]) ^ 255);
        [$records, $damage] = $this->unpack($broken);
        self::assertStringContainsString('is damaged at byte', (string) $damage?->getMessage());
        self::assertGreaterThan(500, count($records));
        [$records, $damage] = $this->unpack(
            gzencode(self::HEAD."\n2026-11-20T06:00:01Z,1,SELECT 1,ada\n").
                gzencode("2026-11-20T06:00:02Z,2,SELECT 2,ada\n").
                str_repeat("\0", 512),
        );
        self::assertSame([2, null], [count($records), $damage], 'members behind each other, filled up with zeros');
        foreach (["\x1f\x8b", "\x1f\x8b\x08", "\x1f\x8b".random_bytes(40)] as $odd) {
            self::assertInstanceOf(DamagedFile::class, $this->unpack($odd)[1]);
        }
    }

    public function test_a_bomb_stops_at_the_limit(): void
    {
        $path = (string) tempnam(sys_get_temp_dir(), 'fulcrion');
        $handle = gzopen($path, 'wb9');
        assert($handle !== false);
        for ($i = 0; $i < 100; $i++) {
            gzwrite($handle, str_repeat('0', 1_048_576));
        }
        gzclose($handle);
        $file = new LineFile($path);
        $before = memory_get_usage();
        try {
            $file->next();
            self::fail('It was unpacked to its end.');
        } catch (DamagedFile $damage) {
            self::assertStringContainsString('more than '.Gunzip::MOST_RATIO.' times its size', $damage->getMessage());
            self::assertLessThan(40 << 20, memory_get_usage() - $before);
        } finally {
            unlink($path);
        }
    }

    private static function map(): ColumnMap
    {
        return ColumnMap::guess(explode(',', self::HEAD));
    }

    /**
     * @return array{list<Execution|Rejection>, DamagedFile|null}
     */
    private function unpack(string $bytes): array
    {
        $path = (string) tempnam(sys_get_temp_dir(), 'fulcrion');
        file_put_contents($path, $bytes);
        $records = [];
        try {
            foreach (
                (new CsvSource(self::map()))->records(new LineFile($path), new ExecutionReader(PHP_INT_MAX - 86_400_000_001)) as [, $one]
            ) {
                $records[] = $one;
            }
        } catch (DamagedFile $damage) {
            return [$records, $damage];
        } finally {
            unlink($path);
        }

        return [$records, null];
    }

    /**
     * @param  list<string>  $rows
     * @return array<int, string> line => statement, or why it was set aside
     */
    private function read(array $rows): array
    {
        $path = (string) tempnam(sys_get_temp_dir(), 'fulcrion');
        file_put_contents($path, implode("\n", [self::HEAD, ...$rows])."\n");
        $found = [];
        $this->lines = 0;
        foreach (
            (new CsvSource(self::map()))->records(new LineFile($path),
                new ExecutionReader(PHP_INT_MAX - 86_400_000_001)) as $line => [$raw, $one]
        ) {
            $this->lines += substr_count($raw, "\n") - 1;
            $found[$line] = $one instanceof Execution ? $one->sql : "line {$line}: {$one->reason}";
        }
        unlink($path);

        return $found;
    }
}
