<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

/**
 * What one node of the modelled cluster can do, and how many of its rows one stored row stands for.
 */
final readonly class HardwareProfile
{
    public function __construct(
        public int $cores = 16,
        public int $rowsPerSecondPerCore = 20_000_000,
        public int $memoryBytes = 8_000_000_000,
        public int $diskBytesPerSecond = 2_000_000_000,
        public int $networkBytesPerSecond = 1_200_000_000,
        public int $rowFactor = 1000,
        /** Opening a file and reading its footer; a node opens as many at once as it has cores. */
        public int $chunkOpenUs = 0,
    ) {
    }

    /**
     * @return array<string, int>
     */
    public function toArray(): array
    {
        return get_object_vars($this);
    }

    /**
     * @param  array<string, int>  $values
     */
    public static function fromArray(array $values): self
    {
        return new self(...$values);
    }
}
