<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use Fulcrion\Core\Storage\TableDefinition;

/**
 * What a bench asks to be changed.
 */
final readonly class Proposal
{
    /**
     * @param  list<string>  $steps
     * @param  list<string>  $inverse empty where there is none, or where it is made from the layout before
     * @param  list<string>  $worse
     * @param  list<array{id: string, executions: float}>  $workload statements it is measured by; executions a week
     */
    public function __construct(
        public string $object,
        public string $title,
        public string $kind,
        public array $steps,
        public array $inverse,
        public float $savedUs,
        public float $savedBytes,
        public float $costUs,
        public float $costBytes,
        public array $worse,
        public array $workload,
        public ?TableDefinition $definition = null,
        public ?TableDefinition $before = null,
        /** Fingerprint of the statement a rewriting is for. */
        public string $statement = '',
    ) {
    }
}
