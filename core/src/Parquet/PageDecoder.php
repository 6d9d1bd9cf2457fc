<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

use Fulcrion\Core\Catalog\TypeKind;

/**
 * Pages of one column to values.
 *
 * @internal
 */
final readonly class PageDecoder
{
    /** Bytes of one page unpacked. */
    private const LARGEST_PAGE = 134_217_728;

    public function __construct(private ColumnChunk $chunk)
    {
    }

    /**
     * @return list<int|float|string|bool|null>
     *
     * @throws ParquetError
     */
    public function values(string $bytes): array
    {
        $dictionary = null;
        $values = [];
        $at = 0;
        while ($at < strlen($bytes) && count($values) < $this->chunk->valueCount) {
            $reader = new ThriftReader($bytes, $at);
            $head = $reader->structure();
            $size = max(-1, $this->int($head, 3));
            $data = substr($bytes, $reader->at(), $size);
            if ($size < 0 || strlen($data) < $size) {
                throw ParquetError::damaged("a page of column {$this->chunk->column->name} ends too early");
            }
            $at = $reader->at() + $size;
            if (is_int($head[4] ?? null) && (crc32($data) & 0xFFFFFFFF) !== ($head[4] & 0xFFFFFFFF)) {
                throw ParquetError::damaged("the checksum of a page of column {$this->chunk->column->name} does not fit");
            }
            $kind = $this->int($head, 1);
            if ($kind === 2) {
                $count = $this->int($this->inner($head, 7), 1);
                $dictionary = $this->plain($this->inflate($data, $this->int($head, 2)), $this->within($count, PHP_INT_MAX));
            } elseif ($kind === 0 || $kind === 3) {
                $page = $kind === 0 ? $this->page($head, $data, $dictionary) : $this->pageV2($head, $data, $dictionary);
                $values = $values === [] ? $page : [...$values, ...$page];
            } elseif ($kind !== 1) {
                throw ParquetError::damaged("a page of the unknown kind {$kind}");
            }
        }

        return $values;
    }

    /**
     * Null where it is none: too short, or no number.
     *
     * @throws ParquetError
     */
    public function bound(string $bytes): int|float|string|bool|null
    {
        if ($this->chunk->physical === 6) {
            return $this->isDecimal() ? $this->scaledInteger($bytes) : $bytes;
        }
        try {
            $bound = $this->plain($bytes, 1)[0];
        } catch (ParquetError) {
            return null;
        }

        return is_float($bound) && is_nan($bound) ? null : $bound;
    }

    /**
     * @param  array<int, mixed>  $head
     * @param  list<int|float|string|bool>|null  $dictionary
     * @return list<int|float|string|bool|null>
     *
     * @throws ParquetError
     */
    private function page(array $head, string $data, ?array $dictionary): array
    {
        $data = $this->inflate($data, $this->int($head, 2));
        $info = $this->inner($head, 5);
        $count = $this->within($this->int($info, 1), $this->chunk->valueCount);
        $levels = null;
        if ($this->chunk->column->nullable) {
            $length = $this->within(Bytes::int32(substr($data, 0, 4)), strlen($data));
            $levels = substr($data, 4, $length);
            $data = substr($data, 4 + $length);
        }

        return $this->spread($levels, $data, $count, $this->int($info, 2), $dictionary);
    }

    /**
     * @param  array<int, mixed>  $head
     * @param  list<int|float|string|bool>|null  $dictionary
     * @return list<int|float|string|bool|null>
     *
     * @throws ParquetError
     */
    private function pageV2(array $head, string $data, ?array $dictionary): array
    {
        $info = $this->inner($head, 8);
        $definition = $this->within($this->int($info, 5), strlen($data));
        $repetition = $this->within($this->int($info, 6), strlen($data));
        $levels = $this->chunk->column->nullable ? substr($data, $repetition, $definition) : null;
        $rest = substr($data, $repetition + $definition);
        if (($info[7] ?? true) === true) {
            $rest = $this->inflate($rest, $this->int($head, 2) - $definition - $repetition);
        }

        return $this->spread(
            $levels,
            $rest,
            $this->within($this->int($info, 1), $this->chunk->valueCount),
            $this->int($info, 4),
            $dictionary,
        );
    }

    /**
     * @param  string|null  $levels definition levels, null where the column is never null
     * @param  list<int|float|string|bool>|null  $dictionary
     * @return list<int|float|string|bool|null>
     *
     * @throws ParquetError
     */
    private function spread(?string $levels, string $data, int $count, int $encoding, ?array $dictionary): array
    {
        if ($count === 0) {
            return [];
        }
        // One run of ones, as most pages have, needs no list of levels.
        $allThere = $levels === null || $levels === ThriftWriter::varint($count << 1)."\1";
        if ($allThere) {
            return $this->decode($data, $count, $encoding, $dictionary);
        }
        $defined = RunLength::decode($levels, 1, $count);
        $present = $this->decode($data, array_sum($defined), $encoding, $dictionary);
        $values = [];
        $next = 0;
        foreach ($defined as $level) {
            $values[] = $level === 1 ? $present[$next++] : null;
        }

        return $values;
    }

    /**
     * @param  list<int|float|string|bool>|null  $dictionary
     * @return list<int|float|string|bool>
     *
     * @throws ParquetError
     */
    private function decode(string $data, int $count, int $encoding, ?array $dictionary): array
    {
        if ($encoding === 0) {
            return $this->plain($data, $count);
        }
        if ($encoding === 3 && $this->chunk->physical === 0) {
            return array_map(static fn (int $bit): bool => $bit === 1, RunLength::decode(substr($data, 4), 1, $count));
        }
        $physical = $this->chunk->physical;
        $at = 0;
        if ($encoding === Encoding::DeltaPacked->value && ($physical === 1 || $physical === 2)) {
            $values = Delta::decode($data, $at);

            return $this->whole($physical === 2 ? $this->scaled($values) : $this->narrow(array_map(Bytes::wrapped(...), $values)), $count);
        }
        if (($encoding === Encoding::DeltaLength->value || $encoding === Encoding::DeltaText->value) && $physical === 6) {
            return $this->texts(
                $this->whole(
                    $encoding === Encoding::DeltaLength->value ? Delta::textsByLength($data, $at) : Delta::textsByBeginning($data),
                    $count,
                ),
            );
        }
        if ($encoding === Encoding::ByteSplit->value && $physical === 5) {
            return $this->plain(self::together($data, $count, 8), $count);
        }
        if ($encoding !== 8 && $encoding !== 2) {
            throw ParquetError::unsupported(ParquetReader::encodingName($encoding)." in column {$this->chunk->column->name}");
        }
        if ($dictionary === null) {
            throw ParquetError::damaged("the dictionary of column {$this->chunk->column->name} is missing");
        }
        if ($count === 0) {
            return [];
        }
        $width = ord($data[0] ?? "\0");
        if ($width > 32) {
            throw ParquetError::damaged('a page has indexes of more than 32 bits');
        }

        return RunLength::decode($width === 0 ? ThriftWriter::varint($count << 1) : substr($data, 1), $width, $count, $dictionary);
    }

    /**
     * @template T of int|float|string|bool
     *
     * @param  list<T>  $values
     * @return list<T>
     *
     * @throws ParquetError
     */
    private function whole(array $values, int $count): array
    {
        return count($values) >= $count ? array_slice($values, 0, $count) : throw $this->short();
    }

    /** Bytes that were written apart, first all first ones, put together again. */
    private static function together(string $data, int $count, int $width): string
    {
        if (strlen($data) < $count * $width) {
            return '';
        }
        $streams = [];
        for ($i = 0; $i < $width; $i++) {
            $streams[] = str_split(substr($data, $i * $count, $count));
        }
        $bytes = '';
        for ($row = 0; $row < $count; $row++) {
            foreach ($streams as $stream) {
                $bytes .= $stream[$row];
            }
        }

        return $bytes;
    }

    /**
     * @return list<int|float|string|bool>
     *
     * @throws ParquetError
     */
    private function plain(string $data, int $count): array
    {
        return match ($this->chunk->physical) {
            0 => $this->booleans($data, $count),
            1 => $this->narrow($this->fixed('l*', $data, $count, 4)),
            2 => $this->scaled($this->fixed('q*', $data, $count, 8)),
            4 => $this->fixed('g*', $data, $count, 4),
            5 => $this->fixed('e*', $data, $count, 8),
            6 => $this->texts($this->arrays($data, $count)),
            7 => $this->wideIntegers($data, $count),
            default => throw ParquetError::unsupported("the physical type {$this->chunk->physical}"),
        };
    }

    /**
     * @return list<int|float>
     *
     * @throws ParquetError
     */
    private function fixed(string $format, string $data, int $count, int $width): array
    {
        if (strlen($data) < $count * $width) {
            throw $this->short();
        }

        return Bytes::list($format, substr($data, 0, $count * $width));
    }

    /**
     * @param  list<int|float>  $values
     * @return list<int|float>
     *
     * @throws ParquetError
     */
    private function scaled(array $values): array
    {
        $factor = $this->chunk->factor;
        if ($this->chunk->unsigned && $values !== [] && min($values) < 0) {
            throw ParquetError::unsupported("numbers beyond 63 bits in the unsigned column {$this->chunk->column->name}");
        }
        if ($factor !== 1 && $values !== [] && (! is_int(max($values) * $factor) || ! is_int(min($values) * $factor))) {
            throw ParquetError::unsupported("times so far away in column {$this->chunk->column->name}");
        }

        return $factor === 1 ? $values : array_map(static fn (int|float $value): int|float => $value * $factor, $values);
    }

    /**
     * Numbers of 32 bits, without a sign where their column has none.
     *
     * @param  list<int|float>  $values
     * @return list<int|float>
     */
    private function narrow(array $values): array
    {
        return $this->chunk->unsigned ? array_map(static fn (int|float $value): int => (int) $value & 0xFFFFFFFF, $values) : $values;
    }

    /**
     * @throws ParquetError
     */
    private function within(int $size, int $most): int
    {
        return $size >= 0 && $size <= $most ? $size : throw $this->short();
    }

    private function isDecimal(): bool
    {
        return $this->chunk->column->type->kind === TypeKind::Decimal;
    }

    /**
     * Byte arrays as what their column holds: texts, or decimals.
     *
     * @param  list<string>  $arrays
     * @return list<string>|list<int>
     *
     * @throws ParquetError
     */
    private function texts(array $arrays): array
    {
        if ($this->isDecimal()) {
            return array_map($this->scaledInteger(...), $arrays);
        }
        if (! mb_check_encoding(implode("\0", $arrays), 'UTF-8')) {
            throw ParquetError::unsupported("bytes that are no text in column {$this->chunk->column->name}");
        }

        return $arrays;
    }

    /**
     * The unscaled number of a decimal, big-endian with its sign.
     *
     * @throws ParquetError
     */
    private function scaledInteger(string $bytes): int
    {
        if ($bytes === '') {
            // Some writers spare the one byte of zero.
            return 0;
        }
        $sign = ord($bytes[0]) > 127 ? "\xff" : "\0";
        $padded = str_pad($bytes, 8, $sign, STR_PAD_LEFT);
        $value = Bytes::int64(strrev(substr($padded, -8)));
        if (trim(substr($padded, 0, -8), $sign) !== '' || $value < 0 !== ($sign === "\xff")) {
            throw ParquetError::unsupported("numbers of more than 18 digits in column {$this->chunk->column->name}");
        }

        return $value;
    }

    /**
     * @return list<string>
     *
     * @throws ParquetError
     */
    private function arrays(string $data, int $count): array
    {
        $texts = [];
        $at = 0;
        $end = strlen($data);
        for ($i = 0; $i < $count; $i++) {
            if ($at + 4 > $end) {
                throw $this->short();
            }
            $length = ord($data[$at]) | (ord($data[$at + 1]) << 8) | (ord($data[$at + 2]) << 16) | (ord($data[$at + 3]) << 24);
            $at += 4;
            if ($at + $length > $end) {
                throw $this->short();
            }
            $texts[] = substr($data, $at, $length);
            $at += $length;
        }

        return $texts;
    }

    /**
     * @return list<bool>
     *
     * @throws ParquetError
     */
    private function booleans(string $data, int $count): array
    {
        if (strlen($data) * 8 < $count) {
            throw $this->short();
        }
        $values = [];
        for ($i = 0; $i < $count; $i++) {
            $values[] = ((ord($data[$i >> 3]) >> ($i & 7)) & 1) === 1;
        }

        return $values;
    }

    /**
     * Decimals as big-endian fixed-length arrays.
     *
     * @return list<int>
     *
     * @throws ParquetError
     */
    private function wideIntegers(string $data, int $count): array
    {
        $width = $this->chunk->typeLength;
        if ($this->chunk->column->type->kind !== TypeKind::Decimal || $width < 1 || $width > 16 || strlen($data) < $width * $count) {
            throw $this->short();
        }

        return $count === 0 ? [] : array_map($this->scaledInteger(...), str_split(substr($data, 0, $width * $count), $width));
    }

    /**
     * @throws ParquetError
     */
    private function inflate(string $data, int $size): string
    {
        if ($this->chunk->codec === Compression::None->value) {
            return $data;
        }
        if ($size > self::LARGEST_PAGE) {
            throw ParquetError::unsupported('pages of more than 128 MiB');
        }
        $plain = $data === '' ? '' : @gzdecode($data, max(1, $size));
        if ($plain === false || strlen($plain) !== $size) {
            throw ParquetError::damaged("a page of column {$this->chunk->column->name} cannot be unpacked");
        }

        return $plain;
    }

    private function short(): ParquetError
    {
        return ParquetError::damaged("a page of column {$this->chunk->column->name} holds fewer values than it says");
    }

    /**
     * @param  array<int, mixed>  $fields
     */
    private function int(array $fields, int $id): int
    {
        return is_int($fields[$id] ?? null) ? $fields[$id] : 0;
    }

    /**
     * @param  array<int, mixed>  $fields
     * @return array<int, mixed>
     */
    private function inner(array $fields, int $id): array
    {
        /** @var array<int, mixed> $inner */
        $inner = is_array($fields[$id] ?? null) ? $fields[$id] : [];

        return $inner;
    }
}
