<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Encodings;

/**
 * What writing and reading the sampled rows one way took; each list has an entry a place of the sample.
 */
final readonly class EncodingTrial
{
    /**
     * @param  list<int>  $bytes
     */
    public function __construct(
        /** Empty for whole rows. */
        public string $column,
        /** Word of the encoding; empty for what suits the values, "rows" for row by row. */
        public string $encoding,
        public string $compression,
        public string $order,
        public array $bytes,
        public int $writeNs,
        public int $readNs,
    ) {
    }

    /**
     * @return array<string, mixed>
     */
    public function toArray(): array
    {
        return [
            'column' => $this->column,
            'encoding' => $this->encoding,
            'compression' => $this->compression,
            'order' => $this->order,
            'bytes' => $this->bytes,
            'writeNs' => $this->writeNs,
            'readNs' => $this->readNs,
        ];
    }

    public function sum(): int
    {
        return array_sum($this->bytes);
    }
}
