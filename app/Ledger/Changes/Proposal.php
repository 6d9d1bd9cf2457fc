<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use Fulcrion\Core\Storage\Rebuild;

/**
 * What a bench asks to be changed.
 */
final readonly class Proposal
{
    /**
     * @param  list<string>  $steps
     * @param  list<string>  $worse
     * @param  list<array{id: string, executions: float}>  $workload statements it is measured by; executions a week
     */
    public function __construct(
        public string $object,
        public string $title,
        public string $kind,
        public array $steps,
        public Inverse $inverse,
        public float $savedUs,
        public float $savedBytes,
        public float $costUs,
        public float $costBytes,
        public array $worse,
        public array $workload,
        /** Where a table is laid out anew; its steps follow from it. */
        public ?Rebuild $rebuild = null,
        /** Fingerprint of the statement a rewriting is for. */
        public string $statement = '',
    ) {
    }
}
