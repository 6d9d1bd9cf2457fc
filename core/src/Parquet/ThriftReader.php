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
     */
    public function structure(int $depth = 0): array
    {
        if ($depth > self::DEEPEST) {
            throw ParquetError::damaged('its metadata is nested too deeply');
        }
        $fields = [];
        $id = 0;
        while (true) {
            $head = $this->byte();
            if ($head === 0) {
                return $fields;
            }
            $delta = $head >> 4;
            $id = $delta === 0 ? $this->zigzag() : $id + $delta;
            $type = $head & 15;
            $fields[$id] = $type === 1 ? true : ($type === 2 ? false : $this->value($type, $depth));
        }
    }

    private function value(int $type, int $depth): mixed
    {
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

    private function byte(): int
    {
        if (! isset($this->bytes[$this->at])) {
            throw ParquetError::damaged('its metadata ends too early');
        }

        return ord($this->bytes[$this->at++]);
    }

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

    private function zigzag(): int
    {
        $value = $this->varint();

        return (($value >> 1) & PHP_INT_MAX) ^ -($value & 1);
    }
}
