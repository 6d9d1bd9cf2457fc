<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Encodings;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\TypeKind;

/**
 * Rows one behind the other, as systems that change single rows keep them: a bit a column for NULL, eight bytes a
 * number, one a boolean, texts with their length in front.
 */
final readonly class RowFormat
{
    /**
     * @param  list<Column>  $columns
     */
    public function __construct(private array $columns)
    {
    }

    /** A word has a bit for each of 64 columns. */
    private function words(): int
    {
        return intdiv(count($this->columns) + 63, 64);
    }

    public function encode(Place $rows): string
    {
        $values = array_map(static fn (Column $column): array => $rows->columns[$column->name], $this->columns);
        $bytes = '';
        for ($i = 0, $count = $rows->rows(); $i < $count; $i++) {
            $nulls = array_fill(0, $this->words(), 0);
            $row = '';
            foreach ($this->columns as $c => $column) {
                $value = $values[$c][$i];
                if ($value === null) {
                    $nulls[$c >> 6] |= 1 << ($c & 63);

                    continue;
                }
                $row .= match ($column->type->kind) {
                    TypeKind::Text => pack('V', strlen((string) $value)).$value,
                    TypeKind::Double => pack('e', $value),
                    TypeKind::Boolean => $value === true ? "\1" : "\0",
                    default => pack('q', $value),
                };
            }
            $bytes .= pack('P*', ...$nulls).$row;
        }

        return $bytes;
    }

    public function decode(string $bytes): Place
    {
        $values = array_fill(0, count($this->columns), []);
        $at = 0;
        $end = strlen($bytes);
        while ($at < $end) {
            /** @var array<int, int> $nulls from 1 */
            $nulls = unpack('P'.$this->words(), $bytes, $at);
            $at += 8 * $this->words();
            foreach ($this->columns as $c => $column) {
                if ((($nulls[1 + ($c >> 6)] >> ($c & 63)) & 1) === 1) {
                    $values[$c][] = null;

                    continue;
                }
                if ($column->type->kind === TypeKind::Text) {
                    /** @var array{1: int} $length */
                    $length = unpack('V', $bytes, $at);
                    $values[$c][] = substr($bytes, $at + 4, $length[1]);
                    $at += 4 + $length[1];
                } elseif ($column->type->kind === TypeKind::Boolean) {
                    $values[$c][] = $bytes[$at++] === "\1";
                } else {
                    /** @var array{1: int|float} $number */
                    $number = unpack($column->type->kind === TypeKind::Double ? 'e' : 'q', $bytes, $at);
                    $values[$c][] = $number[1];
                    $at += 8;
                }
            }
        }
        $columns = [];
        foreach ($this->columns as $c => $column) {
            $columns[$column->name] = $values[$c];
        }

        return new Place($columns);
    }
}
