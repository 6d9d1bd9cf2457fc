<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;

/**
 * Reads flat Apache Parquet files: only the footer at first, then only the columns asked for.
 */
final readonly class ParquetReader
{
    private const ENCODINGS = [
        0 => 'PLAIN',
        2 => 'PLAIN_DICTIONARY',
        3 => 'RLE',
        4 => 'BIT_PACKED',
        5 => 'DELTA_BINARY_PACKED',
        6 => 'DELTA_LENGTH_BYTE_ARRAY',
        7 => 'DELTA_BYTE_ARRAY',
        8 => 'RLE_DICTIONARY',
        9 => 'BYTE_STREAM_SPLIT',
    ];

    private const CODECS = [1 => 'SNAPPY', 3 => 'LZO', 4 => 'BROTLI', 5 => 'LZ4', 6 => 'ZSTD', 7 => 'LZ4_RAW'];

    private const INT96 = 3;

    /** Rows of one group, all of which are held at once. */
    private const MOST_ROWS = 10_000_000;

    /**
     * @param  list<Column>  $columns
     * @param  list<array{rows: int, chunks: list<ColumnChunk>}>  $groups
     */
    private function __construct(private ByteSource $source, public array $columns, public int $rowCount, private array $groups)
    {
    }

    /**
     * @throws ParquetError
     */
    public static function open(ByteSource $source): self
    {
        $size = $source->size();
        if ($size < 12 || $source->read(0, 4) !== ParquetWriter::MAGIC) {
            throw ParquetError::damaged('it does not begin with the mark of the format');
        }
        $end = $source->read($size - 8, 8);
        if (substr($end, 4) !== ParquetWriter::MAGIC) {
            throw ParquetError::damaged('it does not end with the mark of the format; it was perhaps cut short');
        }
        $length = Bytes::int32(substr($end, 0, 4));
        if ($length < 1 || $length > $size - 12) {
            throw ParquetError::damaged('its footer is longer than the file');
        }
        $meta = (new ThriftReader($source->read($size - 8 - $length, $length)))->structure();
        [$columns, $lengths, $factors, $unsigned] = self::schema(self::lists($meta, 2));
        $groups = [];
        foreach (self::lists($meta, 4) as $group) {
            $chunks = [];
            foreach (self::lists($group, 1) as $i => $chunk) {
                $chunks[] = self::chunk(
                    $columns[$i] ?? throw ParquetError::damaged('it has more columns than its schema'),
                    $lengths[$i],
                    $factors[$i],
                    is_array($chunk[3] ?? null) ? $chunk[3] : [],
                    $size,
                    $unsigned[$i],
                );
            }
            if (count($chunks) !== count($columns)) {
                throw ParquetError::damaged('a row group lacks a column');
            }
            $rows = self::int($group, 3);
            if ($rows < 0) {
                throw ParquetError::damaged('a row group has fewer than no rows');
            }
            if ($rows > self::MOST_ROWS) {
                throw ParquetError::unsupported('row groups of more than 10 million rows');
            }
            $groups[] = ['rows' => $rows, 'chunks' => $chunks];
        }

        return new self($source, $columns, self::int($meta, 3), $groups);
    }

    public function groupCount(): int
    {
        return count($this->groups);
    }

    /**
     * @throws ParquetError
     */
    public function statistics(int $group, string $column): Statistics
    {
        return $this->chunkOf($group, $column)->statistics;
    }

    /**
     * Bytes of one column of one row group in the file.
     *
     * @throws ParquetError
     */
    public function bytes(int $group, string $column): int
    {
        return $this->chunkOf($group, $column)->size;
    }

    /**
     * @return list<int|float|string|bool|null>
     *
     * @throws ParquetError
     */
    public function read(int $group, string $column): array
    {
        $chunk = $this->chunkOf($group, $column);
        $bytes = $this->source->read($chunk->offset, $chunk->size);
        if (strlen($bytes) < $chunk->size) {
            throw ParquetError::damaged("the column {$column} ends too early");
        }
        if ($chunk->valueCount !== $this->groups[$group]['rows']) {
            throw ParquetError::damaged("the column {$column} has {$chunk->valueCount} values for {$this->groups[$group]['rows']} rows");
        }
        $values = (new PageDecoder($chunk))->values($bytes);
        if (count($values) !== $this->groups[$group]['rows']) {
            throw ParquetError::damaged("the column {$column} has ".count($values)." values for {$this->groups[$group]['rows']} rows");
        }

        return $values;
    }

    /**
     * @return list<int|float|string|bool|null>
     *
     * @throws ParquetError
     */
    public function readAll(string $column): array
    {
        // One group is what our own files have; putting groups together copies every value.
        $values = count($this->groups) > 0 ? $this->read(0, $column) : [];
        for ($group = 1; $group < count($this->groups); $group++) {
            array_push($values, ...$this->read($group, $column));
        }

        return $values;
    }

    public static function encodingName(int $encoding): string
    {
        return 'the encoding '.(self::ENCODINGS[$encoding] ?? "number {$encoding}");
    }

    /**
     * @throws ParquetError
     */
    private function chunkOf(int $group, string $column): ColumnChunk
    {
        foreach ($this->groups[$group]['chunks'] ?? [] as $chunk) {
            if ($chunk->column->name === $column) {
                return $chunk;
            }
        }
        throw ParquetError::unsupported(
            "no column named {$column} (its columns are ".
                implode(', ', array_map(static fn (Column $column): string => $column->name, $this->columns)).
                ')',
        );
    }

    /**
     * @param  list<array<int, mixed>>  $elements
     * @return array{list<Column>, list<int>, list<int>, list<bool>} columns, bytes a value of fixed-length arrays, factors of times,
     *     whether numbers have no sign
     *
     * @throws ParquetError
     */
    private static function schema(array $elements): array
    {
        $columns = [];
        $lengths = [];
        $factors = [];
        $unsigned = [];
        foreach (array_slice($elements, 1) as $element) {
            $name = is_string($element[4] ?? null) ? $element[4] : throw ParquetError::damaged('a column has no name');
            if (self::int($element, 5) > 0) {
                throw ParquetError::unsupported("the nested column {$name}");
            }
            $repetition = self::int($element, 3);
            if ($repetition === 2) {
                throw ParquetError::unsupported("the repeated column {$name}");
            }
            $columns[] = new Column($name, self::type($element, $name), $repetition === 1);
            $lengths[] = self::int($element, 2);
            $factors[] = self::timeFactor($element, $name);
            $unsigned[] = self::isUnsigned($element);
        }
        if ($columns === []) {
            throw ParquetError::damaged('it has no columns');
        }

        return [$columns, $lengths, $factors, $unsigned];
    }

    /**
     * @param  array<int, mixed>  $element
     *
     * @throws ParquetError
     */
    private static function type(array $element, string $name): ColumnType
    {
        $physical = self::int($element, 1);
        $logical = is_array($element[10] ?? null) ? $element[10] : [];
        $converted = is_int($element[6] ?? null) ? $element[6] : -1;
        $inner = static fn (int $id): array => is_array($logical[$id] ?? null) ? $logical[$id] : [];
        if (isset($logical[5]) || $converted === 5) {
            $precision = max(self::int($inner(5), 2), self::int($element, 8));
            if ($precision > ColumnType::MOST_DIGITS) {
                throw ParquetError::unsupported("a decimal of {$precision} digits in column {$name}");
            }

            $scale = max(self::int($inner(5), 1), self::int($element, 7));

            return $precision < 1 || $scale > $precision
                ? throw ParquetError::damaged("the decimal column {$name} has no digits")
                : ColumnType::decimal($precision, max(0, $scale));
        }
        if (isset($logical[7]) || $converted === 7 || $converted === 8) {
            throw ParquetError::unsupported("times of day in column {$name}");
        }
        if (isset($logical[8]) || $converted === 9 || $converted === 10) {
            return ColumnType::of(TypeKind::Timestamp);
        }

        return ColumnType::of(
            match (true) {
                isset($logical[6]) || $converted === 6 => TypeKind::Date,
                $physical === 0 => TypeKind::Boolean,
                $physical === 1, $physical === 2 => TypeKind::Bigint,
                $physical === 4, $physical === 5 => TypeKind::Double,
                $physical === 6 => TypeKind::Text,
                $physical === self::INT96 => throw ParquetError::unsupported("the physical type INT96 in column {$name}"),
                default => throw ParquetError::unsupported("fixed-length arrays in column {$name}"),
            },
        );
    }

    /**
     * @param  array<int, mixed>  $element
     */
    private static function isUnsigned(array $element): bool
    {
        $logical = is_array($element[10] ?? null) ? $element[10] : [];
        $whole = is_array($logical[10] ?? null) ? $logical[10] : [];

        return ($whole[2] ?? null) === false || in_array($element[6] ?? null, [11, 12, 13, 14], true);
    }

    /**
     * @param  array<int, mixed>  $element
     *
     * @throws ParquetError
     */
    private static function timeFactor(array $element, string $name): int
    {
        $logical = is_array($element[10] ?? null) ? $element[10] : [];
        $time = is_array($logical[8] ?? null) ? $logical[8] : [];
        $unit = is_array($time[2] ?? null) ? $time[2] : [];
        if (isset($unit[3])) {
            throw ParquetError::unsupported("timestamps in nanoseconds in column {$name}");
        }

        return isset($unit[1]) || ($element[6] ?? null) === 9 ? 1000 : 1;
    }

    /**
     * @param  array<array-key, mixed>  $meta
     *
     * @throws ParquetError
     */
    private static function chunk(Column $column, int $typeLength, int $factor, array $meta, int $fileSize, bool $unsigned): ColumnChunk
    {
        $codec = self::int($meta, 4);
        if (Compression::tryFrom($codec) === null) {
            throw ParquetError::unsupported('the compression '.(self::CODECS[$codec] ?? "number {$codec}"));
        }
        // The dictionary, where there is one, comes first.
        $offset = self::int($meta, 11) > 0 ? self::int($meta, 11) : self::int($meta, 9);
        $size = self::int($meta, 7);
        if ($offset < 4 || $size < 0 || $offset > $fileSize - $size) {
            throw ParquetError::damaged("the column {$column->name} lies outside the file");
        }
        $physical = self::int($meta, 1);
        $chunk = new ColumnChunk(
            $column,
            $physical,
            $typeLength,
            $codec,
            self::int($meta, 5),
            $offset,
            $size,
            new Statistics(null, null, null),
            $factor,
            $unsigned,
        );
        $statistics = is_array($meta[12] ?? null) ? $meta[12] : [];
        $decoder = new PageDecoder($chunk);
        $bound = static fn (int $id): int|float|string|bool|null => is_string($statistics[$id] ?? null)
            ? $decoder->bound($statistics[$id])
            : null;

        return new ColumnChunk(
            $column,
            $physical,
            $typeLength,
            $codec,
            $chunk->valueCount,
            $offset,
            $size,
            new Statistics($bound(6), $bound(5), is_int($statistics[3] ?? null) ? $statistics[3] : null),
            $factor,
            $unsigned,
        );
    }

    /**
     * @param  array<array-key, mixed>  $fields
     */
    private static function int(array $fields, int $id): int
    {
        return is_int($fields[$id] ?? null) ? $fields[$id] : 0;
    }

    /**
     * @param  array<array-key, mixed>  $fields
     * @return list<array<int, mixed>>
     *
     * @throws ParquetError
     */
    private static function lists(array $fields, int $id): array
    {
        $list = $fields[$id] ?? [];
        if (! is_array($list)) {
            throw ParquetError::damaged('its metadata has a value where a list belongs');
        }
        $structures = [];
        foreach ($list as $element) {
            /** @var array<int, mixed> $structure */
            $structure = is_array($element) ? $element : throw ParquetError::damaged('its metadata has a value where a structure belongs');
            $structures[] = $structure;
        }

        return $structures;
    }
}
