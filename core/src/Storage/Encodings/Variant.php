<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Encodings;

/**
 * One way of storing a table, with what it takes a row.
 */
final readonly class Variant
{
    public const ROWS = 'rows';

    /**
     * @param  array<string, string>  $encodings by column: words of encodings; empty word for what suits the values
     */
    public function __construct(
        /** How encodings were chosen, or ROWS. */
        public string $policy,
        public string $compression,
        public string $order,
        public array $encodings,
        public float $bytesPerRow,
        /** Half the width of the interval that holds the true size with 95%, as a share of it. */
        public float $uncertainty,
        public float $writeNs,
        public float $readAllNs,
        /** The columns an average execution asks for. */
        public float $readWorkNs,
    ) {
    }

    public function key(): string
    {
        return hash('xxh32', "{$this->policy}|{$this->compression}|{$this->order}");
    }

    public function label(): string
    {
        return ($this->policy === self::ROWS ? 'row by row' : $this->policy).', '.$this->compression.', '.$this->order;
    }
}
