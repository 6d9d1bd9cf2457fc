<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rollups;

use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Storage\TableLayout;

/**
 * Rollups chosen for a table, beside all that could be made.
 */
final readonly class RollupAdvice
{
    /**
     * @param  list<AggregateUse>  $uses
     * @param  array<string, list<string>>  $not statements no rollup can answer, by reason
     * @param  list<Candidate>  $candidates
     * @param  list<float>  $baseUs of one execution of each use
     * @param  list<float>  $weights executions a week of each use
     */
    public function __construct(
        public TableLayout $table,
        public array $uses,
        public array $not,
        public array $candidates,
        private array $baseUs,
        private array $weights,
        public Choice $choice,
    ) {
    }

    /** The same with another choice. */
    public function within(float $budgetBytes, float $keepBudgetUs = INF, float $leastUs = 0.0): self
    {
        return new self(
            $this->table,
            $this->uses,
            $this->not,
            $this->candidates,
            $this->baseUs,
            $this->weights,
            Choice::of($this->baseUs, $this->weights, $this->candidates, $budgetBytes, $keepBudgetUs, $leastUs),
        );
    }

    /** Modelled time a week the statements a rollup could answer take now. */
    public function nowUs(): float
    {
        return array_sum(array_map(static fn (float $us, float $times): float => $us * $times, $this->baseUs, $this->weights));
    }

    /**
     * @return list<RollupProposal>
     */
    public function proposals(): array
    {
        $proposals = [];
        $names = [];
        foreach ($this->choice->chosen as $number => $candidate) {
            $served = [];
            foreach ($this->choice->answers as $use => $answer) {
                if ($answer === $number) {
                    $served[$use] = $this->uses[$use];
                }
            }
            if ($served === []) {
                continue;
            }
            $measures = array_keys(
                array_flip(array_merge([], ...array_map(static fn (AggregateUse $use): array => $use->measures, array_values($served)))),
            );
            $name = $this->name($candidate, $names);
            $names[] = $name;
            $proposals[] = new RollupProposal(
                $this->table->name,
                $name,
                $candidate,
                $served,
                $this->sql($candidate, $measures),
                $this->choice->gains[$number],
            );
        }

        return $proposals;
    }

    /**
     * @param  list<string>  $taken
     */
    private function name(Candidate $candidate, array $taken): string
    {
        $words = implode(
            '_',
            array_map(static fn (Dimension $d): string => $d->unit === '' ? $d->column : $d->unit, $candidate->dimensions),
        );
        $name = "{$this->table->name}_by_{$words}";
        if (strlen($name) > 60) {
            $name = substr($name, 0, 51).'_'.substr(hash('xxh32', $candidate->key()), 0, 8);
        }

        return in_array($name, $taken, true) ? $name.'_'.substr(hash('xxh32', $candidate->key()), 0, 6) : $name;
    }

    /**
     * @param  list<string>  $measures
     */
    private function sql(Candidate $candidate, array $measures): string
    {
        $printer = new Printer();
        $groups = array_map(
            static fn (Dimension $d): string => $d->unit === ''
                ? $printer->name($d->column)
                : "date_trunc('{$d->unit}', {$printer->name($d->column)})",
            $candidate->dimensions,
        );

        return 'SELECT '.
            implode(', ', [...$groups, ...$measures === [] ? ['count(*)'] : $measures]).
            " FROM {$this->table->path()} GROUP BY ".
            implode(', ', $groups);
    }
}
