<?php

declare(strict_types=1);

namespace App\Health\Application;

/**
 * An execution that was in flight at a moment.
 */
final readonly class InFlight
{
    public function __construct(
        public string $fingerprint,
        /** Without its literals. */
        public string $text,
        public string $user,
        public int $startedUs,
        public int $durationUs,
        public int $waitedUs,
        public int $bytesRead,
    ) {
    }

    public function endedUs(): int
    {
        return $this->startedUs + $this->durationUs;
    }
}
