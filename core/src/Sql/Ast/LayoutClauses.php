<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * How a table is laid out, as CREATE TABLE says it behind the columns: PLACED BY (bay) CUT BY DAY OF read_at SORTED BY (read_at).
 * What is not said is null or empty.
 */
final readonly class LayoutClauses extends Node
{
    public const BY = 'BY';

    public const EVENLY = 'EVENLY';

    public const EVERYWHERE = 'EVERYWHERE';

    /** Rows near in both of two columns are kept near each other, along a Hilbert curve or in Z-order. */
    public const CURVE = 'CURVE';

    public const Z_CURVE = 'Z CURVE';

    /**
     * @param  self::BY|self::EVENLY|self::EVERYWHERE|null  $placed
     * @param  list<string>  $placedBy columns, of BY only
     * @param  string|null  $cutColumn whose values tell partitions apart
     * @param  string|int|null  $cutSpan a unit of time such as day, a width of numbers, or null for a partition a value
     * @param  list<string>  $sortedBy
     * @param  self::CURVE|self::Z_CURVE|''  $curve
     * @param  array<string, string>  $encoded encoding by column
     * @param  string|null  $packed compression with its level: gzip5
     */
    public function __construct(
        int $at,
        public ?string $placed = null,
        public array $placedBy = [],
        public ?string $cutColumn = null,
        public string|int|null $cutSpan = null,
        public array $sortedBy = [],
        public string $curve = '',
        public ?int $chunkRows = null,
        public array $encoded = [],
        public ?string $packed = null,
    ) {
        parent::__construct($at);
    }
}
