<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Parquet\ByteSource;

/**
 * A file of which the end is read at once, where the footer is.
 */
final class FooterFile implements ByteSource
{
    private const TAIL = 32_768;

    /** @var resource */
    private $handle;

    private readonly int $size;

    private ?string $tail = null;

    public function __construct(string $path)
    {
        $handle = @fopen($path, 'rb');
        if ($handle === false) {
            throw new SourceError('It cannot be opened.');
        }
        $this->handle = $handle;
        $this->size = (int) (fstat($handle)['size'] ?? 0);
    }

    public function size(): int
    {
        return $this->size;
    }

    public function read(int $offset, int $length): string
    {
        if ($length < 1) {
            return '';
        }
        $from = max(0, $this->size - self::TAIL);
        if ($offset >= $from) {
            if ($this->tail === null) {
                fseek($this->handle, $from);
                $this->tail = (string) stream_get_contents($this->handle);
            }

            return substr($this->tail, $offset - $from, $length);
        }
        fseek($this->handle, $offset);

        return (string) stream_get_contents($this->handle, $length);
    }
}
