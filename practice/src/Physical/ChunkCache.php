<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Practice\Storage\FileSource;

/**
 * Columns of chunks already unpacked, as nodes keep them in memory; the longest unused go first. Chunks never change,
 * so nothing ever has to be invalidated. Counters count a column as read whether it comes from here or from disk.
 */
final class ChunkCache
{
    /** @var array<string, list<int|float|string|bool|null>> */
    private array $columns = [];

    /** @var array<string, ParquetReader> */
    private array $readers = [];

    private int $values = 0;

    public function __construct(private readonly int $mostValues = 4_000_000)
    {
    }

    /**
     * @return list<int|float|string|bool|null>
     */
    public function column(string $path, string $column): array
    {
        $key = "{$path}|{$column}";
        if (isset($this->columns[$key])) {
            $values = $this->columns[$key];
            // Moved to the end: the front is what was not used for longest.
            unset($this->columns[$key]);

            return $this->columns[$key] = $values;
        }
        if (count($this->readers) > 64) {
            $this->readers = [];
        }
        $reader = $this->readers[$path] ??= ParquetReader::open(new FileSource($path));
        $values = $reader->readAll($column);
        $this->values += count($values);
        $this->columns[$key] = $values;
        while ($this->values > $this->mostValues && count($this->columns) > 1) {
            $this->values -= count($this->columns[array_key_first($this->columns)]);
            unset($this->columns[array_key_first($this->columns)]);
        }

        return $values;
    }
}
