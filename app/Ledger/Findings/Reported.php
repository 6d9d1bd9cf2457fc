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
     * @param  array<string, float>  $byStatementUs what it costs each statement, by fingerprint
     */
    public function __construct(
        public string $rule,
        public FindingSubject $subject,
        public Severity $severity,
        public string $problem,
        public array $evidence,
        public Weight $weight,
        public string $remedy,
        public array $statements = [],
        public array $inverse = [],
        /** Read or stored for nothing. */
        public float $spareBytes = 0.0,
        public array $byStatementUs = [],
        /** Whether somebody suffers from it at this moment, so that it comes first whatever it weighs. */
        public bool $urgent = false,
    ) {
    }
}
