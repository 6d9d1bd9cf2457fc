<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\TypeKind;
use LogicException;

/**
 * Writes columns as an Apache Parquet file of one row group: data pages V1, PLAIN or RLE_DICTIONARY, with statistics
 * and page checksums.
 */
final readonly class ParquetWriter
{
    public const MAGIC = 'PAR1';

    private const PHYSICAL = ['boolean' => 0, 'date' => 1, 'bigint' => 2, 'decimal' => 2, 'timestamp' => 2, 'double' => 5, 'text' => 6];

    /** Longer texts are cut in the statistics. */
    private const STATISTIC_BYTES = 64;

    private const BATCH = 50_000;

    /**
     * @param  array<string, Encoding>  $encodings by column; what suits the values where none is named
     * @param  int<1, 9>  $level of gzip
     */
    public function __construct(
        private Compression $compression = Compression::Gzip,
        private string $createdBy = 'fulcrion',
        private array $encodings = [],
        private int $level = 4,
    ) {
    }

    /**
     * @param  list<Column>  $columns
     * @param  list<list<int|float|string|bool|null>>  $values one list a column, all of the same length
     *
     * @throws ParquetError
     */
    public function write(array $columns, array $values): string
    {
        $rows = count($values[0] ?? []);
        $file = self::MAGIC;
        $chunks = [];
        foreach ($columns as $i => $column) {
            $chunks[] = $this->column($column, $values[$i], strlen($file), $file);
        }
        $footer = $this->footer($columns, $chunks, $rows);

        return $file.$footer.pack('V', strlen($footer)).self::MAGIC;
    }

    /**
     * @param  list<int|float|string|bool|null>  $values
     * @return array{offset: int, dictionary: int|null, encoding: int, size: int, plainSize: int, statistics: array{string|null,
     *     string|null, int, bool}}
     *
     * @throws ParquetError
     */
    private function column(Column $column, array $values, int $offset, string &$file): array
    {
        $count = count($values);
        $nulls = in_array(null, $values, true);
        $present = $nulls ? array_values(array_filter($values, static fn (mixed $value): bool => $value !== null)) : $values;
        if ($nulls && ! $column->nullable) {
            throw new LogicException("the column {$column->name} may not be null");
        }
        $levels = '';
        if ($column->nullable) {
            $levels = $nulls
                ? RunLength::encode(array_map(static fn (mixed $value): int => $value === null ? 0 : 1, $values), 1)
                : ($count === 0
                    ? ''
                    : ThriftWriter::varint($count << 1)."\1");
            $levels = pack('V', strlen($levels)).$levels;
        }
        $start = strlen($file);
        $plainSize = 0;
        $wanted = $this->encodings[$column->name] ?? null;
        $wanted = $wanted !== null && $wanted->fits($column->type->kind) ? $wanted : null;
        $encoding = Encoding::Plain;
        $dictionary = match ($wanted) {
            null => $this->dictionary($column, $present),
            Encoding::Dictionary => $this->numbers($column, $present),
            default => null,
        };
        $dictionaryOffset = null;
        if ($dictionary !== null) {
            $dictionaryOffset = $start;
            $keys = array_keys($dictionary);
            // PHP turns keys that look like numbers into numbers.
            $distinct = match ($column->type->kind) {
                TypeKind::Text => array_map(strval(...), $keys),
                TypeKind::Double => array_map(static fn (int|string $key): float => Bytes::double((string) $key), $keys),
                default => $keys,
            };
            $file .= $this->page(2, $this->plain($column, $distinct), count($distinct), 0, $plainSize);
            $offset = strlen($file);
            // Whole bytes are faster to write and read, and what is squeezed afterwards gains little from fewer bits.
            $width = $wanted === null ? (count($dictionary) <= 256 ? 8 : 16) : max(1, strlen(decbin(max(0, count($dictionary) - 1))));
            $indexes = [];
            foreach ($present as $value) {
                /** @var int|float|string $value */
                $indexes[] = $dictionary[is_float($value) ? pack('e', $value) : $value];
            }
            $encoding = Encoding::Dictionary;
            $data = chr($width).RunLength::encode($indexes, min(16, $width));
        } else {
            [$data, $encoding] = $this->encoded($column, $present, $wanted ?? Encoding::Plain);
        }
        $file .= $this->page(0, $levels.$data, $count, $encoding->value, $plainSize);

        return [
            'offset' => $offset,
            'dictionary' => $dictionaryOffset,
            'encoding' => $encoding->value,
            'size' => strlen($file) - $start,
            'plainSize' => $plainSize,
            'statistics' => $this->statistics($column, $present, $count - count($present)),
        ];
    }

    /**
     * Values and their numbers where a dictionary is worth it, else null.
     *
     * @param  list<int|float|string|bool>  $values
     * @return array<int|string, int>|null
     */
    private function dictionary(Column $column, array $values): ?array
    {
        $count = count($values);
        if ($count < 16 || $column->type->is(TypeKind::Boolean, TypeKind::Double)) {
            return null;
        }
        // A taste first: most columns that do not repeat show it early.
        $taste = array_slice($values, 0, 2000);
        /** @var list<int|string> $taste */
        if (count(array_flip($taste)) > count($taste) * 0.7) {
            return null;
        }
        /** @var list<int|string> $values */
        $distinct = array_flip($values);
        $most = min(65_536, $column->type->kind === TypeKind::Text ? $count >> 1 : $count >> 2);
        if (count($distinct) > $most) {
            return null;
        }
        $numbers = [];
        $next = 0;
        foreach ($distinct as $value => $_) {
            $numbers[$value] = $next++;
        }

        return $numbers;
    }

    /**
     * Values and their numbers; null where there are more than two bytes can tell apart.
     *
     * @param  list<int|float|string|bool>  $values
     * @return array<int|string, int>|null
     */
    private function numbers(Column $column, array $values): ?array
    {
        $numbers = [];
        foreach ($values as $value) {
            $numbers[is_float($value) ? pack('e', $value) : (is_bool($value) ? (int) $value : $value)] ??= count($numbers);
        }

        return $numbers === [] || count($numbers) > 65_536 ? null : $numbers;
    }

    /**
     * @param  list<int|float|string|bool>  $values
     * @return array{string, Encoding} plain where the values cannot be written as wanted
     */
    private function encoded(Column $column, array $values, Encoding $wanted): array
    {
        /** @var list<int> $numbers */
        $numbers = $wanted === Encoding::DeltaPacked ? $values : [];
        /** @var list<string> $texts */
        $texts = $wanted === Encoding::DeltaLength || $wanted === Encoding::DeltaText ? array_map(strval(...), $values) : [];
        $bits =
            $wanted === Encoding::RunLength && $values !== []
                ? RunLength::encode(array_map(static fn (mixed $value): int => $value === true ? 1 : 0, $values), 1)
                : '';
        $data = match ($wanted) {
            Encoding::DeltaPacked => Delta::encode($numbers),
            Encoding::DeltaLength => Delta::lengths($texts),
            Encoding::DeltaText => Delta::beginnings($texts),
            Encoding::RunLength => pack('V', strlen($bits)).$bits,
            Encoding::ByteSplit => self::apart($this->plain($column, $values), 8),
            default => null,
        };

        return $data === null ? [$this->plain($column, $values), Encoding::Plain] : [$data, $wanted];
    }

    private static function apart(string $bytes, int $width): string
    {
        $streams = array_fill(0, $width, '');
        $size = strlen($bytes);
        for ($at = 0; $at < $size; $at += $width) {
            for ($i = 0; $i < $width; $i++) {
                $streams[$i] .= $bytes[$at + $i];
            }
        }

        return implode('', $streams);
    }

    /**
     * @param  list<int|float|string|bool>  $values
     */
    private function plain(Column $column, array $values): string
    {
        $kind = $column->type->kind;
        if ($kind === TypeKind::Text) {
            $bytes = '';
            foreach ($values as $value) {
                $value = (string) $value;
                $bytes .= pack('V', strlen($value)).$value;
            }

            return $bytes;
        }
        if ($kind === TypeKind::Boolean) {
            $bytes = '';
            foreach (array_chunk($values, 8) as $bits) {
                $byte = 0;
                foreach ($bits as $i => $bit) {
                    $byte |= ($bit === true ? 1 : 0) << $i;
                }
                $bytes .= chr($byte);
            }

            return $bytes;
        }
        $format = match ($kind) {
            TypeKind::Double => 'e*',
            TypeKind::Date => 'l*',
            default => 'q*',
        };
        $bytes = '';
        foreach (array_chunk($values, self::BATCH) as $part) {
            $bytes .= pack($format, ...$part);
        }

        return $bytes;
    }

    private function page(int $kind, string $data, int $count, int $encoding, int &$plainSize): string
    {
        $packed = $this->compression === Compression::Gzip ? (string) gzencode($data, $this->level) : $data;
        $crc = crc32($packed);
        $head = (new ThriftWriter())
            ->open()
            ->i32(1, $kind)
            ->i32(2, strlen($data))
            ->i32(3, strlen($packed))
            ->i32(4, $crc >= 0x80000000 ? $crc - 0x100000000 : $crc);
        if ($kind === 2) {
            $head->open(7)->i32(1, $count)->i32(2, 0)->close();
        } else {
            $head->open(5)->i32(1, $count)->i32(2, $encoding)->i32(3, 3)->i32(4, 3)->close();
        }
        $bytes = $head->close()->bytes();
        $plainSize += strlen($bytes) + strlen($data);

        return $bytes.$packed;
    }

    /**
     * @param  list<int|float|string|bool>  $values
     * @return array{string|null, string|null, int, bool} min, max, nulls, whether min and max are values that occur
     */
    private function statistics(Column $column, array $values, int $nullCount): array
    {
        if ($column->type->kind === TypeKind::Double) {
            $values = array_values(array_filter($values, static fn (mixed $value): bool => ! is_float($value) || ! is_nan($value)));
        }
        if ($values === []) {
            return [null, null, $nullCount, true];
        }
        if ($column->type->kind !== TypeKind::Text) {
            return [$this->plain($column, [min($values)]), $this->plain($column, [max($values)]), $nullCount, true];
        }
        $min = $max = (string) $values[0];
        foreach ($values as $value) {
            // min() and max() compare texts that look like numbers as numbers.
            $value = (string) $value;
            if (strcmp($value, $min) < 0) {
                $min = $value;
            } elseif (strcmp($value, $max) > 0) {
                $max = $value;
            }
        }
        $exact = strlen($min) <= self::STATISTIC_BYTES && strlen($max) <= self::STATISTIC_BYTES;
        if (strlen($max) > self::STATISTIC_BYTES) {
            $max = substr($max, 0, self::STATISTIC_BYTES - 1)."\xff";
        }

        return [substr($min, 0, self::STATISTIC_BYTES), $max, $nullCount, $exact];
    }

    /**
     * @param  list<Column>  $columns
     * @param  list<array{offset: int, dictionary: int|null, encoding: int, size: int, plainSize: int, statistics: array{string|null,
     *     string|null, int, bool}}>  $chunks
     */
    private function footer(array $columns, array $chunks, int $rows): string
    {
        $w = (new ThriftWriter())->open()->i32(1, 2);
        $w->list(2, ThriftWriter::STRUCT, count($columns) + 1)
            ->open()
            ->binary(4, 'chunk')
            ->i32(5, count($columns))
            ->close();
        foreach ($columns as $column) {
            $this->schema($w, $column);
        }
        $w->i64(3, $rows)->list(4, ThriftWriter::STRUCT, 1)->open()->list(1, ThriftWriter::STRUCT, count($chunks));
        $total = 0;
        foreach ($chunks as $i => $chunk) {
            [$min, $max, $nulls, $exact] = $chunk['statistics'];
            $total += $chunk['plainSize'];
            $first = $chunk['dictionary'] ?? $chunk['offset'];
            $w->open()->i64(2, $first)->open(3)->i32(1, self::PHYSICAL[$columns[$i]->type->kind->value]);
            $encodings = array_values(array_unique($chunk['dictionary'] === null ? [$chunk['encoding'], 3] : [0, 3, 8]));
            $w->list(2, ThriftWriter::I32, count($encodings));
            foreach ($encodings as $encoding) {
                $w->zigzag($encoding);
            }
            $w->list(3, ThriftWriter::BINARY, 1)
                ->text($columns[$i]->name)
                ->i32(4, $this->compression->value)
                ->i64(5, $rows)
                ->i64(6, $chunk['plainSize'])
                ->i64(7, $chunk['size'])
                ->i64(9, $chunk['offset']);
            if ($chunk['dictionary'] !== null) {
                $w->i64(11, $chunk['dictionary']);
            }
            $w->open(12)->i64(3, $nulls);
            if ($min !== null && $max !== null) {
                $w->binary(5, $max)->binary(6, $min)->bool(7, $exact)->bool(8, $exact);
            }
            $w->close()->close()->close();
        }
        $w->i64(2, $total)->i64(3, $rows)->close()->binary(6, $this->createdBy)->list(7, ThriftWriter::STRUCT, count($columns));
        for ($i = 0; $i < count($columns); $i++) {
            $w->open()->open(1)->close()->close();
        }

        return $w->close()->bytes();
    }

    private function schema(ThriftWriter $w, Column $column): void
    {
        $kind = $column->type->kind;
        $w->open()
            ->i32(1, self::PHYSICAL[$kind->value])
            ->i32(3, $column->nullable ? 1 : 0)
            ->binary(4, $column->name);
        match ($kind) {
            TypeKind::Text => $w->i32(6, 0)->open(10)->open(1)->close()->close(),
            TypeKind::Date => $w->i32(6, 6)->open(10)->open(6)->close()->close(),
            TypeKind::Timestamp => $w->i32(6, 10)->open(10)->open(8)->bool(1, true)->open(2)->open(2)->close()->close()->close()->close(),
            TypeKind::Decimal => $w
                ->i32(6, 5)
                ->i32(7, $column->type->scale)
                ->i32(8, $column->type->precision)
                ->open(10)
                ->open(5)
                ->i32(1, $column->type->scale)
                ->i32(2, $column->type->precision)
                ->close()
                ->close(),
            default => $w,
        };
        $w->close();
    }
}
