<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use App\Estate\Connectors\FolderReader;
use Closure;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\ParquetWriter;
use Illuminate\Support\Facades\File;
use RuntimeException;

/**
 * Footers of two thousand files, beside the library hyparquet on the same files.
 */
final class FooterBench implements Measurement
{
    private const FILES = 2000;

    public function name(): string
    {
        return 'parquet-footer';
    }

    public function run(Closure $say): iterable
    {
        $folder = Scratch::folder().'/footers';
        array_map(unlink(...), File::glob("{$folder}/*"));
        is_dir($folder) || mkdir($folder, 0700, true);
        $say('writing '.self::FILES.' files');
        $types = [
            TypeKind::Bigint,
            TypeKind::Double,
            TypeKind::Text,
            TypeKind::Timestamp,
            TypeKind::Date,
            TypeKind::Boolean,
            TypeKind::Bigint,
            TypeKind::Text,
        ];
        $columns = array_map(
            static fn (TypeKind $kind, int $i): Column => new Column("column_{$i}", ColumnType::of($kind)),
            $types,
            array_keys($types),
        );
        for ($file = 0; $file < self::FILES; $file++) {
            $values = array_map(
                static fn (TypeKind $kind): array => array_map(
                    static fn (int $i): int|float|string|bool => match ($kind) {
                        TypeKind::Double => $i / 7,
                        TypeKind::Text => "value {$i}",
                        TypeKind::Boolean => $i % 2 === 0,
                        default => $file * 1000 + $i,
                    },
                    range(1, 60),
                ),
                $types,
            );
            file_put_contents(sprintf('%s/part-%05d.parquet', $folder, $file), (new ParquetWriter())->write($columns, $values));
        }
        $say('reading them here');
        $reader = new FolderReader();
        $reader->read($folder, 'bench');
        $seconds = [];
        $rows = 0;
        for ($i = 0; $i < 3; $i++) {
            $start = hrtime(true);
            $rows = $reader->read($folder, 'bench')[0]->rows();
            $seconds[] = (hrtime(true) - $start) / 1e9;
        }
        sort($seconds);
        $say('reading them with hyparquet');
        $process = proc_open(
            ['node', base_path('bin/footers.mjs'), $folder],
            [['file', '/dev/null', 'r'], ['pipe', 'w'], ['file', '/dev/null', 'w']],
            $pipes,
            base_path(),
        );
        $other = $process === false ? null : json_decode((string) stream_get_contents($pipes[1]), true);
        if ($process !== false) {
            proc_close($process);
        }
        if (! is_array($other) || (int) $other['rows'] !== $rows) {
            throw new RuntimeException('hyparquet did not read the same files.');
        }
        yield BenchFigure::of('footers a second here', self::FILES / $seconds[1], 'files/s');
        yield BenchFigure::of('footers a second with hyparquet', self::FILES / $other['seconds'], 'files/s');
        yield BenchFigure::atLeast('times as fast', $other['seconds'] / $seconds[1], 1.0, 'times');
    }
}
