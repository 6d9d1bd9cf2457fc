<?php

declare(strict_types=1);

namespace App\Telemetry\Sources;

use RuntimeException;

/**
 * A text file, plain or gzip, read line by line in constant memory.
 */
final class LineFile
{
    /** Longer lines are read on, so that the file goes on, but given back cut. */
    public const MAX_LINE = 16_777_216;

    private const HELPING = 8_192;

    /** @var resource */
    private $handle;

    public readonly int $bytesTotal;

    public int $bytesRead = 0;

    public int $line = 0;

    private int $lastLength = 0;

    private readonly GunzipState $state;

    /**
     * @throws RuntimeException when the file cannot be read
     */
    public function __construct(public readonly string $path)
    {
        [$this->handle, $this->bytesTotal, $this->state] = PlainOrGzip::open($path);
    }

    /**
     * The next line with its end mark, null at the end of the file.
     *
     * @throws DamagedFile where it ends too early; lines before that were whole
     */
    public function next(): ?string
    {
        // fgets reserves as many bytes as it may read: small helpings are far quicker than one that fits any line.
        $line = fgets($this->handle, self::HELPING);
        if ($line === false) {
            return $this->state->trouble === null ? null : throw $this->damaged(0);
        }
        $length = strlen($line);
        if ($length === self::HELPING - 1 && $line[$length - 1] !== "\n") {
            while (($rest = fgets($this->handle, self::HELPING)) !== false) {
                $length += strlen($rest);
                if ($length < self::MAX_LINE) {
                    $line .= $rest;
                }
                if (str_ends_with($rest, "\n")) {
                    break;
                }
            }
        }
        if ($this->state->trouble !== null && feof($this->handle) && ! str_ends_with($line, "\n")) {
            throw $this->damaged($length);
        }
        $this->bytesRead += $length;
        $this->lastLength = $length;
        $this->line++;
        if ($this->line === 1 && str_starts_with($line, "\xEF\xBB\xBF")) {
            $line = substr($line, 3);
        }

        return $line;
    }

    /**
     * @param  int  $rest bytes of the line that is not whole
     */
    private function damaged(int $rest): DamagedFile
    {
        return new DamagedFile(
            "{$this->state->trouble}, behind line {$this->line} of its text. What stands before that was taken".
                ($rest > 0 ? '; the line that breaks off there was not' : '').
                '. Send the whole file again: what is known already is not counted twice.',
        );
    }

    /** Whether the last line was longer than it was given back. */
    public function wasCut(): bool
    {
        return $this->lastLength >= self::MAX_LINE;
    }

    public function __destruct()
    {
        fclose($this->handle);
    }
}
