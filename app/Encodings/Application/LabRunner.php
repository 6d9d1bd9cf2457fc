<?php

declare(strict_types=1);

namespace App\Encodings\Application;

use App\Encodings\Models\LabRun;
use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Platform\Runs\Progress;
use Closure;
use Fulcrion\Core\Storage\Encodings\Lab;

/**
 * Draws a sample and stores it every way worth trying.
 */
final readonly class LabRunner
{
    /** Rows of a file that lie in one chunk. */
    private const CHUNK_ROWS = 16_384;

    public function __construct(private Clusters $clusters)
    {
    }

    public function run(LabRun $run, string $file): void
    {
        try {
            $run->carryOut(
                fn (Progress $progress): array => [
                    'result' => $file === '' ? $this->ofTable($run, $progress) : $this->ofFile($run, $file, $progress),
                ],
            );
        } finally {
            if ($file !== '') {
                @unlink($file);
            }
        }
    }

    /**
     * @return array<string, mixed>
     */
    private function ofTable(LabRun $run, Progress $progress): array
    {
        $source =
            $run->cluster === null
                ? null
                : $this->clusters->as(Actor::system(SystemActor::Audit, 'encodings tried on a sample'))->layouts($run->cluster);
        $table = $source?->layout($run->object) ?? throw new SourceError("There is no table {$run->object} any more.");
        if ($table->chunks === []) {
            throw new SourceError("{$run->object} is empty, so there is nothing to store.");
        }
        $progress->checkpoint('reading whole places of the table', 0.01);
        [$places, $of] = $source->places($run->object, Lab::PIECES);
        if ($places === []) {
            throw new SourceError("{$run->object} is empty, so there is nothing to store.");
        }
        $lab = (new Lab(
            $table->definition->columns,
            $table->definition->chunkRows,
            static fn (): int => (int) hrtime(true),
            $progress->often(),
            self::further(),
        ))->run($places, $table->definition->clustering);

        return [
            'lab' => $lab->toArray(),
            'tableRows' => $table->rows(),
            'tableBytes' => $table->bytes(),
            'copies' => $table->storedBytes() / max(1, $table->bytes()),
            'rowFactor' => $table->rowFactor,
            'places' => count($places),
            'ofPlaces' => $of,
            'version' => $table->history->version,
            'chunkRows' => $table->definition->chunkRows,
        ];
    }

    /**
     * @return array<string, mixed>
     */
    private function ofFile(LabRun $run, string $path, Progress $progress): array
    {
        $progress->checkpoint('reading the file', 0.01);
        $table = FileTable::read($path);
        $all = $table->places();
        $places = array_values(array_slice($all, 0, Lab::PIECES));
        assert($places !== []);
        $lab = (new Lab(
            $table->columns,
            self::CHUNK_ROWS,
            static fn (): int => (int) hrtime(true),
            $progress->often(),
            self::further(),
        ))->run($places, []);

        return [
            'lab' => $lab->toArray(),
            'tableRows' => $table->rows(),
            'tableBytes' => (int) filesize($path),
            'copies' => 1,
            'rowFactor' => 1,
            'places' => count($places),
            'ofPlaces' => count($all),
            'version' => 0,
            'chunkRows' => self::CHUNK_ROWS,
        ];
    }

    /**
     * Compressions this PHP offers beside gzip.
     *
     * @return array<string, array{Closure(string): string, Closure(string): string}>
     */
    public static function further(): array
    {
        $offered = [];
        foreach (
            [
                'bzip2' => ['bzcompress', 'bzdecompress'],
                'zstd' => ['zstd_compress', 'zstd_uncompress'],
                'lz4' => ['lz4_compress', 'lz4_uncompress'],
            ] as $name => [$press, $open]
        ) {
            if (is_callable($press) && is_callable($open)) {
                $offered[$name] = [
                    static fn (string $bytes): string => (string) $press($bytes),
                    static fn (string $bytes): string => (string) $open($bytes),
                ];
            }
        }

        return $offered;
    }
}
