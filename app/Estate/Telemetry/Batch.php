<?php

declare(strict_types=1);

namespace App\Estate\Telemetry;

use Fulcrion\Core\Sql\Fingerprint;
use Fulcrion\Core\Telemetry\Execution;

/**
 * Executions of one cluster on their way into the store, in the order in which they came.
 */
final class Batch
{
    /** @var list<array{Execution, Fingerprint, string}> execution, statement, identity */
    public array $records = [];

    /** @var array<string, int> identity => times seen */
    private array $seen = [];

    public function add(Execution $execution, Fingerprint $statement): void
    {
        $identity = $execution->identity();
        $times = $this->seen[$identity] = ($this->seen[$identity] ?? 0) + 1;
        if ($times > 1) {
            // Truly alike records next to each other are different runs: number them.
            $identity = hash('xxh3', $identity.$times, true);
        }
        $this->records[] = [$execution, $statement, $identity];
    }

    public function size(): int
    {
        return count($this->records);
    }
}
