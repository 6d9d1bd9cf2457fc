<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rollups;

use Fulcrion\Core\Sql\Printer;

/**
 * A rollup to be made.
 */
final readonly class RollupProposal
{
    /**
     * @param  array<int, AggregateUse>  $served what would be answered from it
     */
    public function __construct(
        /** schema.table */
        public string $table,
        /** schema.rollup */
        public string $name,
        public Candidate $candidate,
        public array $served,
        public string $query,
        /** Modelled time a week saved beside the rollups chosen before it, its maintenance taken off. */
        public float $savedUs,
    ) {
    }

    public function create(): string
    {
        return 'CREATE ROLLUP '.$this->path()." AS {$this->query}";
    }

    public function drop(): string
    {
        return "DROP ROLLUP {$this->path()}";
    }

    /** Time the statements it answers take now, over the time they would take. */
    public function factor(): float
    {
        $before = $after = 0.0;
        foreach ($this->served as $number => $use) {
            $before += $use->executions * $use->readUs;
            $after += $use->executions * $this->candidate->costs[$number];
        }

        return $after > 0 ? $before / $after : 1.0;
    }

    /**
     * @return array<string, float> modelled time a week each statement would save, by fingerprint, maintenance left out
     */
    public function savings(): array
    {
        $sums = [];
        foreach ($this->served as $number => $use) {
            $saved = $use->executions * ($use->readUs - $this->candidate->costs[$number]);
            $sums[$use->statement] = ($sums[$use->statement] ?? 0.0) + $saved;
        }

        return $sums;
    }

    public function executions(): float
    {
        return array_sum(array_map(static fn (AggregateUse $use): float => $use->executions, $this->served));
    }

    private function path(): string
    {
        return (new Printer())->path(explode('.', $this->name, 2));
    }
}
