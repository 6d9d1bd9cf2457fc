<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Fulcrion\Practice\Logical\Field;

/**
 * One operator of a plan, run node by node.
 */
abstract class Step
{
    /** @var array<int, Counters> by node */
    private array $counters = [];

    /** Rows expected in all. */
    public float $estimate = 1.0;

    /** How many times it was started anew, as subqueries are. */
    public int $runs = 1;

    /**
     * @param  list<Field>  $fields
     * @param  list<Step>  $inputs
     */
    public function __construct(public readonly array $fields, public readonly array $inputs, public Placement $placement)
    {
    }

    /** Which of the kinds of Fulcrion\Core\Plans\StepKind it is. */
    abstract public function kind(): string;

    /** What it works on or by, in one line. */
    abstract public function detail(): string;

    /** How much a row costs beside a row that is only read; see docs/practice-cluster.md. */
    public function rowWeight(): float
    {
        return 1.0;
    }

    /**
     * @return iterable<Batch>
     */
    abstract protected function produce(Run $run, int $node): iterable;

    public function counters(int $node): Counters
    {
        return $this->counters[$node] ??= new Counters();
    }

    /**
     * @return iterable<Batch>
     */
    public function batches(Run $run, int $node): iterable
    {
        $counters = $this->counters($node);
        $start = $run->now();
        foreach ($this->produce($run, $node) as $batch) {
            $counters->rowsOut += $batch->rows;
            $counters->elapsedNs += $run->now() - $start;
            yield $batch;
            $start = $run->now();
        }
        $counters->elapsedNs += $run->now() - $start;
    }

    /** Before it runs again for other outer values. */
    public function reset(): void
    {
        foreach ($this->inputs as $input) {
            $input->reset();
        }
        $this->runs++;
    }

    /** A copy on every node is split among the nodes where every row is wanted once. */
    public function split(): void
    {
        if ($this->placement->kind !== Placement::EVERYWHERE) {
            return;
        }
        foreach ($this->inputs as $input) {
            $input->split();
        }
        $this->placement = new Placement(Placement::EVEN);
    }

    /**
     * @return list<int>
     */
    public function ids(): array
    {
        return array_map(static fn (Field $field): int => $field->id, $this->fields);
    }

    /**
     * @return list<int>
     */
    protected function nodesOf(Run $run): array
    {
        return match ($this->placement->kind) {
            Placement::SINGLE, Placement::EVERYWHERE => [0],
            default => range(0, $run->nodes - 1),
        };
    }

    /**
     * Everything its input gives on a node, counted.
     *
     * @return iterable<Batch>
     */
    protected function from(Run $run, int $node, int $input = 0): iterable
    {
        $counters = $this->counters($node);
        foreach ($this->inputs[$input]->batches($run, $node) as $batch) {
            $run->tick();
            $counters->rowsIn += $batch->rows;
            yield $batch;
        }
    }
}
