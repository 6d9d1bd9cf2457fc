<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

/**
 * The finding another one comes of.
 */
final readonly class CausingFinding
{
    public function __construct(
        public int $findingId,
        public string $problem,
        /** Of the weight that it explains, at most 1. */
        public float $share,
    ) {
    }
}
