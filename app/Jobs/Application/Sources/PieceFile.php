<?php

declare(strict_types=1);

namespace App\Jobs\Application\Sources;

use App\Telemetry\Sources\DamagedFile;
use App\Telemetry\Sources\GunzipState;
use App\Telemetry\Sources\PlainOrGzip;

/**
 * A file, plain or gzip, read in pieces.
 */
final class PieceFile
{
    private const PIECE = 262_144;

    /** @var resource */
    private $handle;

    public readonly int $bytesTotal;

    public int $bytesRead = 0;

    private readonly GunzipState $state;

    public function __construct(public readonly string $path)
    {
        [$this->handle, $this->bytesTotal, $this->state] = PlainOrGzip::open($path);
    }

    public function piece(): string
    {
        $piece = (string) fread($this->handle, self::PIECE);
        if ($this->bytesRead === 0 && str_starts_with($piece, "\xEF\xBB\xBF")) {
            $this->bytesRead += 3;
            $piece = substr($piece, 3);
        }
        $this->bytesRead += strlen($piece);
        $this->refuseDamage($piece === '');

        return $piece;
    }

    /**
     * @return list<string|null>|null
     */
    public function row(string $separator): ?array
    {
        $row = fgetcsv($this->handle, null, $separator, '"', '');
        $this->bytesRead = (int) ftell($this->handle);

        $this->refuseDamage(! is_array($row));

        return is_array($row) ? $row : null;
    }

    private function refuseDamage(bool $isOver): void
    {
        if ($isOver && $this->state->trouble !== null) {
            throw new DamagedFile("{$this->state->trouble}, behind {$this->bytesRead} bytes of its text. Send the whole file again.");
        }
    }

    public function again(): void
    {
        rewind($this->handle);
        $this->bytesRead = 0;
    }

    public function __destruct()
    {
        fclose($this->handle);
    }
}
