<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Platform\Support\Clock;
use App\Storage\Models\LabRun;
use Closure;
use Fulcrion\Core\Storage\Encodings\Lab;
use Throwable;

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
        $run->update(['state' => 'running', 'heartbeat_us' => Clock::microseconds()]);
        try {
            $result = $file === '' ? $this->ofTable($run) : $this->ofFile($run, $file);
            $run->update(['state' => 'done', 'done_share' => 1, 'progress' => '', 'result' => $result]);
        } catch (SourceError $error) {
            $run->update(['state' => $error->stopped ? 'stopped' : 'failed', 'error' => $error->getMessage()]);
        } catch (Throwable $error) {
            report($error);
            $run->update(['state' => 'failed', 'error' => 'An error nobody foresaw: '.mb_strcut($error->getMessage(), 0, 300)]);
        } finally {
            if ($file !== '') {
                @unlink($file);
            }
        }
    }

    /**
     * @return array<string, mixed>
     */
    private function ofTable(LabRun $run): array
    {
        $source =
            $run->cluster === null
                ? null
                : $this->clusters->as(Actor::system(SystemActor::Audit, 'encodings tried on a sample'))->layouts($run->cluster);
        $table = $source?->layout($run->object) ?? throw new SourceError("There is no table {$run->object} any more.");
        if ($table->chunks === []) {
            throw new SourceError("{$run->object} is empty, so there is nothing to store.");
        }
        $this->tell($run, 'reading whole places of the table', 0.01);
        [$places, $of] = $source->places($run->object, Lab::PIECES);
        if ($places === []) {
            throw new SourceError("{$run->object} is empty, so there is nothing to store.");
        }
        $lab = (new Lab(
            $table->definition->columns,
            $table->definition->chunkRows,
            static fn (): int => (int) hrtime(true),
            $this->teller($run),
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
            'version' => $table->version,
            'chunkRows' => $table->definition->chunkRows,
        ];
    }

    /**
     * @return array<string, mixed>
     */
    private function ofFile(LabRun $run, string $path): array
    {
        $this->tell($run, 'reading the file', 0.01);
        $table = FileTable::read($path);
        $all = $table->places();
        $places = array_values(array_slice($all, 0, Lab::PIECES));
        assert($places !== []);
        $lab = (new Lab(
            $table->columns,
            self::CHUNK_ROWS,
            static fn (): int => (int) hrtime(true),
            $this->teller($run),
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

    /**
     * @return Closure(string, float): void
     */
    private function teller(LabRun $run): Closure
    {
        $last = 0;

        return function (string $what, float $share) use ($run, &$last): void {
            $now = (int) hrtime(true);
            if ($now - $last > 500_000_000) {
                $last = $now;
                $this->tell($run, $what, $share);
            }
        };
    }

    private function tell(LabRun $run, string $what, float $share): void
    {
        if (LabRun::query()->whereKey($run->id)->value('stop_asked')) {
            throw new SourceError('Stopped by hand.', null, true);
        }
        $run->update(['progress' => $what, 'done_share' => $share, 'heartbeat_us' => Clock::microseconds()]);
    }
}
