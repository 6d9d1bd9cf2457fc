<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

/**
 * Reads structures of the Thrift compact protocol into arrays by field number.
 *
 * @internal
 */
final class ThriftReader
{
    private const DEEPEST = 32;

    public function __construct(private readonly string $bytes, private int $at = 0)
    {
    }

    public function at(): int
    {
        return $this->at;
    }

    /**
     * @return array<int, mixed> field number => int, float, string, bool, list or array of the same
     *
     * @throws ParquetError
     */
    public function structure(int $depth = 0): array
    {
        if ($depth > self::DEEPEST) {
            throw ParquetError::damaged('its metadata is nested too deeply');
        }
        $fields = [];
        $id = 0;
        // Footers are made of little else than short numbers and texts, so those are read without a call for each byte.
        $bytes = $this->bytes;
        $at = $this->at;
        while (true) {
            $head = ord($bytes[$at] ?? throw ParquetError::damaged('its metadata ends too early'));
            $at++;
            if ($head === 0) {
                $this->at = $at;

                return $fields;
            }
            $delta = $head >> 4;
            if ($delta === 0) {
                $this->at = $at;
                $id = $this->zigzag();
                $at = $this->at;
            } else {
                $id += $delta;
            }
            $type = $head & 15;
            $next = ord($bytes[$at] ?? "\xFF");
            if ($next < 128 && $type >= 4 && $type <= 6) {
                $fields[$id] = ($next >> 1) ^ -($next & 1);
                $at++;
            } elseif ($next < 128 && $type === 8 && isset($bytes[$at + $next])) {
                $fields[$id] = substr($bytes, $at + 1, $next);
                $at += $next + 1;
            } elseif ($type <= 2) {
                $fields[$id] = $type === 1;
            } else {
                $this->at = $at;
                $fields[$id] = $this->value($type, $depth);
                $at = $this->at;
            }
        }
    }

    /**
     * @throws ParquetError
     */
    private function value(int $type, int $depth): mixed
    {
        if ($depth > self::DEEPEST) {
            throw ParquetError::damaged('its metadata is nested too deeply');
        }
        switch ($type) {
            case 1:
            case 2:
                return $this->byte() === 1;
            case 3:
                return $this->byte();
            case 4:
            case 5:
            case 6:
                return $this->zigzag();
            case 7:
                $this->at += 8;

                return Bytes::double(substr($this->bytes, $this->at - 8, 8));
            case 8:
                $length = $this->varint();
                if ($length < 0 || $this->at + $length > strlen($this->bytes)) {
                    throw ParquetError::damaged('a text in its metadata ends too early');
                }
                $this->at += $length;

                return substr($this->bytes, $this->at - $length, $length);
            case 9:
            case 10:
                $head = $this->byte();
                $count = $head >> 4;
                $count = $count === 15 ? $this->varint() : $count;
                if ($count < 0 || $count > strlen($this->bytes)) {
                    throw ParquetError::damaged('a list in its metadata is longer than the file');
                }
                $list = [];
                for ($i = 0; $i < $count; $i++) {
                    $list[] = $this->value($head & 15, $depth + 1);
                }

                return $list;
            case 12:
                return $this->structure($depth + 1);
        }
        throw ParquetError::damaged("its metadata has a field of the unknown kind {$type}");
    }

    /**
     * @throws ParquetError
     */
    private function byte(): int
    {
        if (! isset($this->bytes[$this->at])) {
            throw ParquetError::damaged('its metadata ends too early');
        }

        return ord($this->bytes[$this->at++]);
    }

    /**
     * @throws ParquetError
     */
    private function varint(): int
    {
        $value = 0;
        for ($shift = 0; $shift < 70; $shift += 7) {
            $byte = $this->byte();
            $value |= ($byte & 127) << $shift;
            if ($byte < 128) {
                return $value;
            }
        }
        throw ParquetError::damaged('a number in its metadata has no end');
    }

    /**
     * @throws ParquetError
     */
    private function zigzag(): int
    {
        $value = $this->varint();

        return (($value >> 1) & PHP_INT_MAX) ^ -($value & 1);
    }
}
