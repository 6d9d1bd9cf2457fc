<?php

declare(strict_types=1);

namespace App\Storage\Application;

use Fulcrion\Core\Storage\Rollups\RollupProposal;

/**
 * The rollups chosen for some space.
 */
final readonly class RollupSet
{
    /**
     * @param  list<RollupProposal>  $proposals
     */
    public function __construct(
        /** Stored bytes they may take. */
        public float $budget,
        public array $proposals,
    ) {
    }

    public function bytes(): float
    {
        return array_sum(array_map(static fn (RollupProposal $p): float => $p->candidate->bytes, $this->proposals));
    }

    public function savedUs(): float
    {
        return array_sum(array_map(static fn (RollupProposal $p): float => $p->savedUs, $this->proposals));
    }

    public function keepUs(): float
    {
        return array_sum(array_map(static fn (RollupProposal $p): float => $p->candidate->keepUs, $this->proposals));
    }

    public function executions(): float
    {
        return array_sum(array_map(static fn (RollupProposal $p): float => $p->executions(), $this->proposals));
    }

    public function key(): string
    {
        return implode(' ', array_map(static fn (RollupProposal $p): string => $p->name, $this->proposals));
    }
}
