<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\Compression;
use Fulcrion\Core\Parquet\Encoding;
use Fulcrion\Core\Parquet\ParquetWriter;
use Random\Engine\Mt19937;
use Random\Randomizer;
use RuntimeException;

/**
 * Sizes of Parquet files by encoding, beside those of hyparquet-writer for the same columns.
 */
final class EncodingBench implements Measurement
{
    private const ROWS = 20_000;

    public function name(): string
    {
        return 'encoding';
    }

    public function run(Closure $say): iterable
    {
        $random = new Randomizer(new Mt19937(5));
        $columns = [
            'moments' => [
                TypeKind::Bigint,
                'INT64',
                static fn (int $i): int => 1_795_000_000_000_000 + $i * 60_000_000 + $random->getInt(0, 999_999),
            ],
            'numbers' => [TypeKind::Bigint, 'INT64', static fn (int $i): int => $random->getInt(-500_000, 500_000)],
            'few' => [TypeKind::Bigint, 'INT64', static fn (int $i): int => $random->getInt(1, 184)],
            'kinds' => [
                TypeKind::Text,
                'STRING',
                static fn (int $i): string => ['temperature', 'humidity', 'co2', 'light', 'soil moisture'][$random->getInt(0, 4)],
            ],
            'paths' => [
                TypeKind::Text,
                'STRING',
                static fn (int $i): string => sprintf('region-%02d/house-%04d/bay-%05d', intdiv($i, 5000), intdiv($i, 100), $i),
            ],
            'values' => [TypeKind::Double, 'DOUBLE', static fn (int $i): float => $random->getInt(100, 990) / 10 + 0.001],
        ];
        $theirs = [
            Encoding::Plain->value => 'PLAIN',
            Encoding::Dictionary->value => 'RLE_DICTIONARY',
            Encoding::DeltaPacked->value => 'DELTA_BINARY_PACKED',
            Encoding::DeltaLength->value => 'DELTA_LENGTH_BYTE_ARRAY',
            Encoding::DeltaText->value => 'DELTA_BYTE_ARRAY',
            Encoding::ByteSplit->value => 'BYTE_STREAM_SPLIT',
        ];
        $say('writing the columns here');
        $jobs = $own = [];
        foreach ($columns as $name => [$kind, $type, $make]) {
            $data = array_map($make, range(0, self::ROWS - 1));
            foreach (Encoding::cases() as $encoding) {
                if (
                    $encoding->fits($kind) &&
                    isset($theirs[$encoding->value]) &&
                    ! ($encoding === Encoding::Dictionary && in_array($name, ['moments', 'numbers', 'paths'], true))
                ) {
                    $jobs[] = [
                        'name' => $name,
                        'type' => $type,
                        'encoding' => $theirs[$encoding->value],
                        'data' => $type === 'INT64' ? array_map(strval(...), $data) : $data,
                    ];
                    $own[] = [
                        $name,
                        $encoding,
                        strlen(
                            (new ParquetWriter(Compression::None, 'fulcrion', [$name => $encoding]))->write(
                                [new Column($name, ColumnType::of($kind), false)],
                                [$data],
                            ),
                        ),
                    ];
                }
            }
        }
        $file = Scratch::folder().'/encodings.json';
        file_put_contents($file, json_encode($jobs, JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION));
        $say('writing them with hyparquet-writer');
        $process = proc_open(
            ['node', base_path('bin/encodings.mjs'), $file],
            [['file', '/dev/null', 'r'], ['pipe', 'w'], ['pipe', 'w']],
            $pipes,
            base_path(),
        );
        $sizes = $process === false ? null : json_decode((string) stream_get_contents($pipes[1]), true);
        $error = $process === false ? '' : (string) stream_get_contents($pipes[2]);
        if ($process !== false) {
            proc_close($process);
        }
        unlink($file);
        if (! is_array($sizes) || count($sizes) !== count($own)) {
            throw new RuntimeException('hyparquet-writer did not write the same columns: '.mb_strcut($error, 0, 300));
        }
        $worst = 0.0;
        foreach ($own as $i => [$name, $encoding, $bytes]) {
            $worst = max($worst, $bytes / $sizes[$i]);
            yield BenchFigure::of("{$name}, {$encoding->label()}: beside {$sizes[$i]} bytes", $bytes, 'bytes');
        }
        yield BenchFigure::atMost('largest beside theirs', $worst, 1.05, 'times');
    }
}
