<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements\Patterns;

/**
 * A pattern as it was seen in some runs.
 */
final readonly class Pattern
{
    /**
     * @param  string|null  $parent fingerprint of the statement it follows; null where it stands alone
     * @param  string  $statement fingerprint of the one that is run too often
     * @param  int  $rounds how often it came about
     * @param  int  $times runs of the statement in all rounds
     * @param  int  $durationUs of those runs
     * @param  int  $intervalUs median time between two runs of polling; else 0
     */
    public function __construct(
        public PatternKind $kind,
        public ?string $parent,
        public string $statement,
        public int $rounds,
        public int $times,
        public int $durationUs,
        public int $intervalUs = 0,
    ) {
    }
}
