<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rollups;

/**
 * A column a rollup is grouped by; a moment by the unit it is cut to.
 */
final readonly class Dimension
{
    /** Units and those whose groups can be put together from it. */
    public const UNITS = [
        'second' => ['second', 'minute', 'hour', 'day', 'week', 'month', 'quarter', 'year'],
        'minute' => ['minute', 'hour', 'day', 'week', 'month', 'quarter', 'year'],
        'hour' => ['hour', 'day', 'week', 'month', 'quarter', 'year'],
        'day' => ['day', 'week', 'month', 'quarter', 'year'],
        'week' => ['week'],
        'month' => ['month', 'quarter', 'year'],
        'quarter' => ['quarter', 'year'],
        'year' => ['year'],
    ];

    public const SECONDS = [
        'second' => 1,
        'minute' => 60,
        'hour' => 3600,
        'day' => 86_400,
        'week' => 604_800,
        'month' => 2_629_800,
        'quarter' => 7_889_400,
        'year' => 31_557_600,
    ];

    /**
     * @param  key-of<self::UNITS>|''  $unit empty for the column as it is
     */
    public function __construct(public string $column, public string $unit = '')
    {
    }

    public function key(): string
    {
        return $this->unit === '' ? $this->column : "{$this->column}@{$this->unit}";
    }

    public function describe(): string
    {
        return $this->unit === '' ? $this->column : "{$this->unit} of {$this->column}";
    }
}
