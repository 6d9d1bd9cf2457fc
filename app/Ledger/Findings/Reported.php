<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

/**
 * A problem a capability has found.
 */
final readonly class Reported
{
    /**
     * @param  list<Evidence>  $evidence
     * @param  list<string>  $statements
     * @param  list<string>  $inverse
     */
    public function __construct(
        public string $rule,
        public FindingSubject $subject,
        public Severity $severity,
        public string $problem,
        public array $evidence,
        public float $weightUs,
        public float $weightBytes,
        public string $remedy,
        public array $statements = [],
        public array $inverse = [],
    ) {
    }
}
