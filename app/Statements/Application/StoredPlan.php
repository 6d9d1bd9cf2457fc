<?php

declare(strict_types=1);

namespace App\Statements\Application;

use Fulcrion\Core\Plans\Plan;

/**
 * A plan as it is kept: one shape of one statement on one cluster.
 */
final readonly class StoredPlan
{
    public function __construct(
        public int $id,
        public int $clusterId,
        /** Fingerprint of the statement. */
        public string $statement,
        public string $shape,
        public int $firstUs,
        public int $lastUs,
        public int $executions,
        public int $durationUs,
        public Plan $plan,
    ) {
    }

    public function meanUs(): ?int
    {
        return $this->executions === 0 ? null : intdiv($this->durationUs, $this->executions);
    }
}
