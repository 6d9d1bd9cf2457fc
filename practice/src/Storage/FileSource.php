<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Fulcrion\Core\Parquet\ByteSource;
use Fulcrion\Practice\WarehouseError;

final class FileSource implements ByteSource
{
    /** @var resource */
    private $handle;

    public function __construct(private readonly string $path)
    {
        $handle = @fopen($path, 'rb');
        if ($handle === false) {
            throw new WarehouseError('The file '.basename($path).' cannot be opened.');
        }
        $this->handle = $handle;
    }

    public function size(): int
    {
        return (int) filesize($this->path);
    }

    public function read(int $offset, int $length): string
    {
        if ($length < 1) {
            return '';
        }
        fseek($this->handle, $offset);

        return (string) stream_get_contents($this->handle, $length);
    }
}
