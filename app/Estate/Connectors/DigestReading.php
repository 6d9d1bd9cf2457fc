<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

/**
 * One row of a server's table of statement digests at one moment.
 */
final readonly class DigestReading
{
    /**
     * @param  array<string, int>  $counters since the server or the row began; `count` and names of Tally::SUMS
     */
    public function __construct(
        public string $key,
        public string $database,
        public string $text,
        public array $counters,
        public int $minUs,
        public int $maxUs,
        /** When the row began, as the server writes it. */
        public string $born,
        public int $bornUs,
        public int $lastUs,
    ) {
    }
}
