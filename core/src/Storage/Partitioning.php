<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;

/**
 * How the rows of a table are kept apart: by spans of a column, or by each of its values.
 */
final readonly class Partitioning
{
    public const SPANS = ['day', 'week', 'month', 'quarter', 'year'];

    public function __construct(
        public string $column,
        /** One of SPANS, a width of whole numbers, or null for one partition a value. */
        public string|int|null $span,
    ) {
    }

    /** Behind "cut". */
    public function describe(): string
    {
        return is_int($this->span) ? "every {$this->span} of {$this->column}" : 'by '.($this->span ?? 'value')." of {$this->column}";
    }

    /** The name of the partition a value belongs to. */
    public function name(int|float|string|bool|null $value, ColumnType $type): string
    {
        if ($value === null) {
            return 'null';
        }
        if (is_int($this->span)) {
            return (string) ((int) floor((is_int($value) || is_float($value) ? $value : 0) / $this->span) * $this->span);
        }
        if ($this->span === null || ! is_int($value)) {
            return $type->show($value);
        }
        $seconds = $type->kind === TypeKind::Date ? $value * 86400 : (int) floor($value / 1_000_000);

        return match ($this->span) {
            'day' => gmdate('Y-m-d', $seconds),
            'week' => gmdate('o-\WW', $seconds),
            'quarter' => gmdate('Y', $seconds).'-Q'.intdiv((int) gmdate('n', $seconds) + 2, 3),
            'year' => gmdate('Y', $seconds),
            default => gmdate('Y-m', $seconds),
        };
    }
}
