<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

/**
 * The part of the Thrift compact protocol that Parquet's headers and footer need.
 *
 * @internal
 */
final class ThriftWriter
{
    public const I32 = 5;

    public const BINARY = 8;

    public const STRUCT = 12;

    private string $bytes = '';

    private int $last = 0;

    /** @var list<int> */
    private array $outer = [];

    public function bytes(): string
    {
        return $this->bytes;
    }

    public static function varint(int $value): string
    {
        if ($value < 0) {
            return self::wide($value);
        }
        $bytes = '';
        while ($value > 127) {
            $bytes .= chr(($value & 127) | 128);
            $value >>= 7;
        }

        return $bytes.chr($value);
    }

    public function i32(int $id, int $value): self
    {
        return $this->head($id, 5)->zigzag($value);
    }

    public function i64(int $id, int $value): self
    {
        return $this->head($id, 6)->zigzag($value);
    }

    public function byte(int $id, int $value): self
    {
        $this->head($id, 3)->bytes .= chr($value & 255);

        return $this;
    }

    public function bool(int $id, bool $value): self
    {
        return $this->head($id, $value ? 1 : 2);
    }

    public function binary(int $id, string $value): self
    {
        return $this->head($id, 8)->text($value);
    }

    public function list(int $id, int $type, int $count): self
    {
        $this->head($id, 9)->bytes .= $count < 15 ? chr(($count << 4) | $type) : chr(0xF0 | $type).self::varint($count);

        return $this;
    }

    /** An element of a list of numbers. */
    public function zigzag(int $value): self
    {
        $value = ($value << 1) ^ ($value >> 63);
        // The sign bit makes a number of ten bytes.
        $this->bytes .= self::varint($value);

        return $this;
    }

    /** An element of a list of texts. */
    public function text(string $value): self
    {
        $this->bytes .= self::varint(strlen($value)).$value;

        return $this;
    }

    /** A structure as a field, or with id 0 as an element of a list. */
    public function open(int $id = 0): self
    {
        if ($id > 0) {
            $this->head($id, 12);
        }
        $this->outer[] = $this->last;
        $this->last = 0;

        return $this;
    }

    public function close(): self
    {
        $this->bytes .= "\0";
        $this->last = (int) array_pop($this->outer);

        return $this;
    }

    private static function wide(int $value): string
    {
        $bytes = '';
        for ($i = 0; $i < 9; $i++) {
            $bytes .= chr(($value & 127) | 128);
            $value = ($value >> 7) & 0x01FFFFFFFFFFFFFF;
        }

        return $bytes.chr($value & 127);
    }

    private function head(int $id, int $type): self
    {
        $delta = $id - $this->last;
        $this->last = $id;
        if ($delta > 0 && $delta < 16) {
            $this->bytes .= chr(($delta << 4) | $type);

            return $this;
        }
        $this->bytes .= chr($type);

        return $this->zigzag($id);
    }
}
