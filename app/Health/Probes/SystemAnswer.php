<?php

declare(strict_types=1);

namespace App\Health\Probes;

use Fulcrion\Core\Health\Complaint;
use Fulcrion\Core\Health\ProbeScale;
use Fulcrion\Core\Health\UsualRange;
use Fulcrion\Core\Health\Verdict;

/**
 * Whether it was the system, with what speaks for it.
 */
final readonly class SystemAnswer
{
    /**
     * @param  list<array{string, string}>  $evidence what, and how much
     * @param  string|null  $fingerprint of the statement it is about
     * @param  array<string, float>  $users executions at work by account, most first
     * @param  list<array{string, string, StatementFacts, StatementFacts}>  $slower fingerprint and text of statements that took longer
     *     than usual, what they did and what is usual
     */
    public function __construct(
        public int $at,
        public Verdict $verdict,
        public string $sentence,
        public Complaint $complaint,
        public array $evidence,
        public ?string $fingerprint,
        public array $users,
        public array $slower,
        public ?ProbeScale $scale,
        public ?UsualRange $usual,
    ) {
    }
}
