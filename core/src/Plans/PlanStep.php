<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * One operator of a plan with what was expected of it and, if it ran, what it did. Null means not known.
 */
final readonly class PlanStep
{
    /**
     * @param  list<string>  $conditions as SQL
     * @param  list<NodeShare>  $nodes one a node, in order; empty where the engine has one or tells none
     * @param  list<PlanStep>  $inputs first the one whose rows go on
     * @param  list<string>  $notes further facts in words
     */
    public function __construct(
        public StepKind $kind,
        public string $detail = '',
        public ?TableFacts $table = null,
        public array $conditions = [],
        public StepRows $rows = new StepRows(),
        public StepCost $cost = new StepCost(),
        public StepReads $reads = new StepReads(),
        public array $nodes = [],
        public array $inputs = [],
        public array $notes = [],
        /** Number of the input that only decides which rows match; -1 for none. */
        public int $onlyFilters = -1,
        /** By which index of a live server it reads; empty where it reads by none, or the engine has none. */
        public string $index = '',
    ) {
    }

    /**
     * @param  list<PlanStep>  $inputs
     */
    public function with(array $inputs, ?int $ownUs, string $note, ?TableFacts $table = null): self
    {
        return new self(
            $this->kind,
            $this->detail,
            $table ?? $this->table,
            $this->conditions,
            $this->rows,
            new StepCost($ownUs, $this->cost->bytesSent, $this->cost->memoryPeak, $this->cost->bytesSpilled),
            $this->reads,
            $this->nodes,
            $inputs,
            $note === '' ? $this->notes : [...$this->notes, $note],
            $this->onlyFilters,
            $this->index,
        );
    }

    /**
     * @param  array<string, string>  $names alias => table
     */
    public function named(array $names): self
    {
        $inputs = array_map(static fn (self $input): self => $input->named($names), $this->inputs);
        $alias = $this->table->name ?? '';
        $name = $names[$alias] ?? $alias;

        return $name === $alias
            ? $this->with($inputs, $this->cost->ownUs, '')
            : $this->with($inputs, $this->cost->ownUs, "as {$alias}", new TableFacts($name, $this->table?->rows));
    }

    public function title(): string
    {
        return $this->kind->label().($this->table === null ? '' : " {$this->table->name}");
    }

    /** How far the estimate is from the truth, as a factor of at least 1. */
    public function errorFactor(): ?float
    {
        if ($this->rows->estimated === null || $this->rows->actual === null) {
            return null;
        }
        $estimated = max(1.0, $this->rows->estimated);
        // Estimates are of one loop.
        $actual = max(1.0, $this->rows->actual / max(1, $this->rows->loops));

        return max($estimated / $actual, $actual / $estimated);
    }

    /** Most rows of a node over the mean of all: 1 is even. */
    public function spread(): ?float
    {
        $rows = array_map(static fn (NodeShare $node): int => max($node->rowsIn, $node->rowsOut), $this->nodes);
        $sum = array_sum($rows);

        return count($rows) < 2 || $sum === 0 ? null : max($rows) / ($sum / count($rows));
    }

    public function cumulativeUs(): ?int
    {
        $sum = $this->cost->ownUs;
        foreach ($this->inputs as $input) {
            $below = $input->cumulativeUs();
            $sum = $below === null ? $sum : ($sum ?? 0) + $below;
        }

        return $sum;
    }

    /**
     * This step and all below, from the top.
     *
     * @return list<PlanStep>
     */
    public function all(): array
    {
        return array_merge([$this], ...array_map(static fn (self $input): array => $input->all(), $this->inputs));
    }

    /**
     * @return array<string, mixed>
     */
    public function toArray(): array
    {
        $values = [
            'kind' => $this->kind->value,
            'detail' => $this->detail,
            'table' => $this->table?->toArray(),
            'conditions' => $this->conditions,
            'estimatedRows' => $this->rows->estimated,
            'actualRows' => $this->rows->actual,
            'rowsIn' => $this->rows->in,
            'loops' => $this->rows->loops,
            'ownUs' => $this->cost->ownUs,
            'chunksRead' => $this->reads->chunks,
            'chunksTotal' => $this->reads->chunksTotal,
            'partitionsRead' => $this->reads->partitions,
            'partitionsTotal' => $this->reads->partitionsTotal,
            'bytesRead' => $this->reads->bytes,
            'bytesTotal' => $this->reads->bytesTotal,
            'bytesSent' => $this->cost->bytesSent,
            'memoryPeak' => $this->cost->memoryPeak,
            'bytesSpilled' => $this->cost->bytesSpilled,
            'nodes' => array_map(get_object_vars(...), $this->nodes),
            'inputs' => array_map(static fn (self $input): array => $input->toArray(), $this->inputs),
            'notes' => $this->notes,
            'onlyFilters' => $this->onlyFilters,
            'index' => $this->index === '' ? null : $this->index,
        ];

        return array_filter($values, static fn (mixed $value): bool => $value !== null && $value !== []);
    }

    /**
     * @throws PlanError
     */
    public static function fromFields(Fields $f, int $depth = 0): self
    {
        if ($depth > 200) {
            throw new PlanError('The plan is nested more than 200 levels deep.');
        }
        $kind =
            StepKind::tryFrom($f->text('kind')) ??
            throw new PlanError(
                "The step kind \"{$f->text('kind')}\" is not known; known are ".
                    implode(', ', array_column(StepKind::cases(), 'value')).
                    '.',
            );

        return new self(
            $kind,
            $f->text('detail'),
            $f->has('table') ? TableFacts::fromArray($f->inner('table')->named()) : null,
            $f->texts('conditions'),
            new StepRows(
                $f->maybeFloat('estimatedRows'),
                $f->maybeFloat('actualRows'),
                $f->maybeFloat('rowsIn'),
                max(1, $f->int('loops')),
            ),
            new StepCost(
                $f->maybeInt('ownUs'),
                $f->maybeInt('bytesSent'),
                $f->maybeInt('memoryPeak'),
                $f->maybeInt('bytesSpilled'),
            ),
            new StepReads(
                $f->maybeInt('chunksRead'),
                $f->maybeInt('chunksTotal'),
                $f->maybeInt('partitionsRead'),
                $f->maybeInt('partitionsTotal'),
                $f->maybeInt('bytesRead'),
                $f->maybeInt('bytesTotal'),
            ),
            array_map(
                static fn (Fields $n): NodeShare => new NodeShare(
                    $n->int('rowsIn'),
                    $n->int('rowsOut'),
                    $n->int('bytesRead'),
                    $n->int('bytesSent'),
                    $n->int('memoryPeak'),
                    $n->int('ownUs'),
                ),
                $f->list('nodes'),
            ),
            array_map(static fn (Fields $input): self => self::fromFields($input, $depth + 1), $f->list('inputs')),
            $f->texts('notes'),
            $f->maybeInt('onlyFilters') ?? -1,
            $f->text('index'),
        );
    }
}
