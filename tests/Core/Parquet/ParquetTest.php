<?php

declare(strict_types=1);

namespace Tests\Core\Parquet;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\Compression;
use Fulcrion\Core\Parquet\Delta;
use Fulcrion\Core\Parquet\Encoding;
use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Parquet\ParquetWriter;
use Fulcrion\Core\Parquet\StringSource;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class ParquetTest extends TestCase
{
    /** @return iterable<string, array{int, int, Compression}> rows, share of NULLs in percent, compression */
    public static function shapes(): iterable
    {
        foreach ([0, 1, 7, 8, 9, 300, 5000] as $rows) {
            foreach ([0, 30, 100] as $nulls) {
                yield "{$rows} rows, {$nulls}% null" => [$rows, $nulls, $rows % 2 === 0 ? Compression::Gzip : Compression::None];
            }
        }
    }

    #[DataProvider('shapes')]
    public function test_what_is_written_is_read_again_with_its_statistics(int $rows, int $nulls, Compression $compression): void
    {
        [$columns, $values] = self::table($rows, $nulls);
        $reader = ParquetReader::open(new StringSource((new ParquetWriter($compression))->write($columns, $values)));
        self::assertEquals($columns, $reader->columns);
        self::assertSame($rows, $reader->rowCount);
        foreach ($columns as $i => $column) {
            self::assertSame($values[$i], $reader->readAll($column->name), $column->name);
            $present = array_values(array_filter($values[$i], static fn (mixed $value): bool => $value !== null));
            $statistics = $reader->statistics(0, $column->name);
            self::assertSame($rows - count($present), $statistics->nullCount);
            if ($column->type->kind === TypeKind::Text) {
                sort($present, SORT_STRING);
            } else {
                sort($present);
            }
            self::assertSame($present[0] ?? null, $statistics->min);
            self::assertSame($present === [] ? null : $present[count($present) - 1], $statistics->max);
        }
    }

    public function test_every_encoding_gives_back_what_was_written_here_and_in_a_reader_of_others(): void
    {
        [$columns, $values] = self::table(900, 20);
        // What is hard on differences: ends of the range, and texts that share much.
        array_splice($values[0], 3, 2, [PHP_INT_MAX, PHP_INT_MIN]);
        $plain = null;
        foreach (Encoding::cases() as $encoding) {
            foreach ([Compression::None, Compression::Gzip] as $compression) {
                $file = (new ParquetWriter(
                    $compression,
                    'test',
                    array_fill_keys(array_map(static fn (Column $c): string => $c->name, $columns), $encoding),
                ))->write($columns, $values);
                $reader = ParquetReader::open(new StringSource($file));
                foreach ($columns as $i => $column) {
                    self::assertSame($values[$i], $reader->readAll($column->name), "{$column->name} as {$encoding->label()}");
                }
            }
            $seen = json_decode(
                $this->node(
                    'read.mjs',
                    (new ParquetWriter(
                        Compression::None,
                        'test',
                        array_fill_keys(array_map(static fn (Column $c): string => $c->name, $columns), $encoding),
                    ))->write($columns, $values),
                ),
                true,
                64,
                JSON_THROW_ON_ERROR,
            )['rows'];
            $plain ??= $seen;
            self::assertSame($plain, $seen, $encoding->label());
        }
    }

    public function test_differences_are_packed_as_worked_by_hand(): void
    {
        // 7, 5, 3, 1, 2, 3, 4, 5: block of 128 in 4, 8 values, first 7; least difference -2, then 0 0 0 3 3 3 3 in two bits.
        $bytes = Delta::encode([7, 5, 3, 1, 2, 3, 4, 5]) ?? self::fail('it fits');
        self::assertSame('8001'.'04'.'08'.'0e'.'03'.'02000000'.'c03f000000000000', bin2hex($bytes));
        $at = 0;
        self::assertSame([7, 5, 3, 1, 2, 3, 4, 5], Delta::decode($bytes, $at));
        self::assertSame(strlen($bytes), $at);
        self::assertNull(Delta::encode([PHP_INT_MIN, PHP_INT_MAX]), 'a difference beyond 64 bits is written plain');
        $this->expectException(ParquetError::class);
        $at = 0;
        Delta::decode(substr($bytes, 0, 8), $at);
    }

    public function test_a_reader_of_others_sees_the_same_values_types_and_statistics(): void
    {
        [$columns, $values] = self::table(700, 20);
        foreach ([Compression::None, Compression::Gzip] as $compression) {
            $seen = json_decode(
                $this->node('read.mjs', (new ParquetWriter($compression))->write($columns, $values)),
                true,
                64,
                JSON_THROW_ON_ERROR,
            );
            self::assertCount(700, $seen['rows']);
            foreach ($seen['rows'] as $r => $row) {
                foreach ($columns as $i => $column) {
                    $own = $values[$i][$r];
                    $expected =
                        $own === null
                            ? null
                            : match ($column->type->kind) {
                                TypeKind::Bigint => (string) $own,
                                TypeKind::Decimal => (float) $own / 100,
                                TypeKind::Date => gmdate('Y-m-d\T00:00:00.000\Z', (int) $own * 86400),
                                TypeKind::Timestamp => gmdate('Y-m-d\TH:i:s', intdiv((int) $own, 1_000_000)).
                                    sprintf('.%03dZ', intdiv((int) $own % 1_000_000, 1000)),
                                default => $own,
                            };
                    self::assertEquals(
                        $expected,
                        is_numeric($row[$i]) && $column->type->kind === TypeKind::Decimal ? round((float) $row[$i], 2) : $row[$i],
                        "{$column->name}, row {$r}",
                    );
                }
            }
            self::assertSame((string) min(array_filter($values[0], is_int(...))), (string) $seen['stats'][0][1]);
            self::assertEquals(count(array_filter($values[3], is_null(...))), $seen['stats'][3][3]);
        }
    }

    public function test_a_file_of_a_writer_of_others_is_read(): void
    {
        $path = (string) tempnam(sys_get_temp_dir(), 'parquet');
        $this->node('write.mjs', null, $path);
        $reader = ParquetReader::open(new StringSource((string) file_get_contents($path)));
        unlink($path);
        self::assertSame(1200, $reader->rowCount);
        $all = static fn (callable $make): array => array_map($make, range(0, 1199));
        self::assertSame($all(static fn (int $i): int => $i - 600), $reader->readAll('id'));
        self::assertSame(
            $all(static fn (int $i): ?float => $i % 7 === 0 ? null : $i / 8),
            array_map(static fn (mixed $v): ?float => $v === null ? null : (float) $v, $reader->readAll('ratio')),
        );
        self::assertSame($all(static fn (int $i): ?string => $i % 5 === 0 ? null : 'w'.$i % 40), $reader->readAll('word'));
        self::assertSame($all(static fn (int $i): ?bool => $i % 11 === 0 ? null : $i % 3 === 0), $reader->readAll('yes'));
        self::assertSame($all(static fn (int $i): int => $i % 100), $reader->readAll('small'));
        self::assertSame($all(static fn (int $i): int => ((int) gmmktime(0, 0, 0, 1, 1, 2026) + $i) * 1_000_000), $reader->readAll('at'));
    }

    /**
     * @return iterable<string, array{string, string, list<mixed>|string}> element of the schema, values as a writer of others takes them,
     *     what is read or why it is not
     */
    public static function odd(): iterable
    {
        yield 'without a sign' => [
            '{"type":"INT32","converted_type":"UINT_32"}',
            '[1, 4294967295, 2147483648]',
            [1, 4_294_967_295, 2_147_483_648],
        ];
        yield 'bytes without a sign' => ['{"type":"INT32","converted_type":"UINT_8"}', '[0, 255]', [0, 255]];
        yield '63 bits without a sign' => ['{"type":"INT64","converted_type":"UINT_64"}', '["5", "9223372036854775807"]', [5, PHP_INT_MAX]];
        yield '64 bits without a sign' => [
            '{"type":"INT64","converted_type":"UINT_64"}',
            '["5", "18446744073709551615"]',
            'numbers beyond 63 bits in the unsigned column x',
        ];
        yield 'differences of 32 bits' => [
            '{"type":"INT32","encoding":"DELTA_BINARY_PACKED"}',
            '[2147483647, -2147483648, 5, -2000000000, 2000000000]',
            [2_147_483_647, -2_147_483_648, 5, -2_000_000_000, 2_000_000_000],
        ];
        yield 'times of day' => ['{"type":"INT32","converted_type":"TIME_MILLIS"}', '[1]', 'times of day in column x'];
        yield 'times of day in 64 bits' => ['{"type":"INT64","converted_type":"TIME_MICROS"}', '["1"]', 'times of day in column x'];
        yield 'raw bytes' => ['{"type":"BYTE_ARRAY"}', '[[65], [255, 0, 3]]', 'bytes that are no text in column x'];
        yield 'raw bytes that are text' => ['{"type":"BYTE_ARRAY"}', '[[65, 66], [195, 164]]', ['AB', 'ä']];
        yield 'decimals of some bytes' => [
            '{"type":"BYTE_ARRAY","converted_type":"DECIMAL","precision":9,"scale":2}',
            '[-0.01, 2.56, 0, -300.25, 12345.67]',
            [-1, 256, 0, -30_025, 1_234_567],
        ];
    }

    /**
     * @param  list<mixed>|string  $expected
     */
    #[DataProvider('odd')]
    public function test_types_of_others_are_read_right_or_refused_by_name(string $element, string $values, array|string $expected): void
    {
        $path = (string) tempnam(sys_get_temp_dir(), 'parquet');
        exec(
            'node '.
                escapeshellarg(__DIR__.'/odd.mjs').
                ' '.
                escapeshellarg($path).
                ' '.
                escapeshellarg($element).
                ' '.
                escapeshellarg($values).
                ' 2>&1',
            $output,
            $status,
        );
        self::assertSame(0, $status, implode(' ', $output));
        try {
            self::assertSame($expected, ParquetReader::open(new StringSource((string) file_get_contents($path)))->readAll('x'));
        } catch (ParquetError $error) {
            self::assertIsString($expected, $error->getMessage());
            self::assertStringContainsString($expected, $error->getMessage());
            self::assertFalse($error->damaged);
        } finally {
            unlink($path);
        }
    }

    public function test_random_damage_ends_in_an_error_of_ours_and_soon(): void
    {
        [$columns, $values] = self::table(60, 20);
        $random = new Randomizer(new Mt19937(3));
        set_error_handler(
            static fn (int $level, string $message): bool => (error_reporting() & $level) !== 0 && throw new \ErrorException($message),
        );
        try {
            for ($i = 0; $i < 3000; $i++) {
                $file = (new ParquetWriter($i % 2 === 0 ? Compression::None : Compression::Gzip))->write($columns, $values);
                for ($changes = $random->getInt(1, 6); $changes > 0; $changes--) {
                    // Mostly in the footer, where the lengths stand.
                    $at =
                        $random->getInt(0, 3) === 0
                            ? $random->getInt(0, strlen($file) - 1)
                            : $random->getInt(intdiv(strlen($file), 2), strlen($file) - 1);
                    $file[$at] = chr($random->getInt(0, 255));
                }
                try {
                    $this->readAll($file);
                } catch (ParquetError) {
                    self::assertLessThan(200 << 20, memory_get_peak_usage());
                }
            }
        } finally {
            restore_error_handler();
        }
    }

    public function test_every_cut_of_a_file_is_called_damaged(): void
    {
        [$columns, $values] = self::table(40, 20);
        $file = (new ParquetWriter(Compression::Gzip))->write($columns, $values);
        for ($length = 0; $length < strlen($file); $length += 7) {
            try {
                $this->readAll(substr($file, 0, $length));
                self::fail("a file cut at {$length} was read");
            } catch (ParquetError $error) {
                self::assertTrue($error->damaged, $error->getMessage());
            }
        }
    }

    public function test_a_changed_byte_never_gives_other_values_silently(): void
    {
        [$columns, $values] = self::table(60, 10);
        $file = (new ParquetWriter(Compression::None))->write($columns, $values);
        $footer = (array) unpack('V', substr($file, -8, 4));
        $dataEnd = strlen($file) - 8 - (int) $footer[1];
        $random = new Randomizer(new Mt19937(5));
        $noticed = 0;
        for ($i = 0; $i < 400; $i++) {
            $broken = $file;
            $at = $random->getInt(4, $dataEnd - 1);
            $broken[$at] = chr(ord($broken[$at]) ^ (1 << $random->getInt(0, 7)));
            try {
                self::assertSame($values, $this->readAll($broken), "byte {$at}");
            } catch (ParquetError) {
                $noticed++;
            }
        }
        self::assertGreaterThan(300, $noticed);
    }

    public function test_what_is_not_supported_is_named(): void
    {
        $file = (new ParquetWriter(Compression::None))->write([new Column('a', ColumnType::of(TypeKind::Bigint), false)], [[1, 2, 3]]);
        $reader = ParquetReader::open(new StringSource($file));
        $this->expectExceptionObject(ParquetError::unsupported('no column named b (its columns are a)'));
        $reader->readAll('b');
    }

    /**
     * @return list<list<mixed>>
     */
    private function readAll(string $file): array
    {
        $reader = ParquetReader::open(new StringSource($file));

        return array_map(static fn (Column $column): array => $reader->readAll($column->name), $reader->columns);
    }

    private function node(string $script, ?string $file, ?string $path = null): string
    {
        $path ??= (string) tempnam(sys_get_temp_dir(), 'parquet');
        if ($file !== null) {
            file_put_contents($path, $file);
        }
        exec('node '.escapeshellarg(__DIR__."/{$script}").' '.escapeshellarg($path).' 2>&1', $output, $status);
        self::assertSame(0, $status, implode("\n", array_slice($output, 0, 5)));
        if ($file !== null) {
            unlink($path);
        }

        return implode("\n", $output);
    }

    /**
     * @return array{list<Column>, list<list<int|float|string|bool|null>>}
     */
    private static function table(int $rows, int $nulls): array
    {
        $random = new Randomizer(new Mt19937($rows * 100 + $nulls));
        $columns = [];
        $values = [];
        foreach (TypeKind::cases() as $kind) {
            $columns[] = new Column($kind->value, $kind === TypeKind::Decimal ? ColumnType::decimal(12, 2) : ColumnType::of($kind));
            $list = [];
            for ($i = 0; $i < $rows; $i++) {
                $value = match ($kind) {
                    TypeKind::Bigint => $random->getInt(-60, 60),
                    TypeKind::Double => (float) ($random->getInt(-1000, 1000) / 8),
                    TypeKind::Decimal => $random->getInt(-9_000_000_000, 9_000_000_000),
                    TypeKind::Text => ['', 'a', 'ä', '12', "x\0y", 'word '.$random->getInt(0, 9)][$random->getInt(0, 5)],
                    TypeKind::Boolean => $random->getInt(0, 1) === 1,
                    TypeKind::Date => 20_000 + intdiv($i, 20),
                    TypeKind::Timestamp => 1_770_000_000_000_000 + $i * 1_000_000,
                };
                $list[] = $random->getInt(1, 100) <= $nulls ? null : $value;
            }
            $values[] = $list;
        }

        return [$columns, $values];
    }
}
