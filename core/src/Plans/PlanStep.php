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
        public ?float $estimatedRows = null,
        /** In all loops together. */
        public ?float $actualRows = null,
        public ?float $rowsIn = null,
        /** How often it was run from the start. */
        public int $loops = 1,
        /** Without its inputs, in all loops together. */
        public ?int $ownUs = null,
        public ?int $chunksRead = null,
        public ?int $chunksTotal = null,
        public ?int $partitionsRead = null,
        public ?int $partitionsTotal = null,
        public ?int $bytesRead = null,
        public ?int $bytesTotal = null,
        public ?int $bytesSent = null,
        public ?int $memoryPeak = null,
        public ?int $bytesSpilled = null,
        public array $nodes = [],
        public array $inputs = [],
        public array $notes = [],
        /** Number of the input that only decides which rows match; -1 for none. */
        public int $onlyFilters = -1,
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
            $this->estimatedRows,
            $this->actualRows,
            $this->rowsIn,
            $this->loops,
            $ownUs,
            $this->chunksRead,
            $this->chunksTotal,
            $this->partitionsRead,
            $this->partitionsTotal,
            $this->bytesRead,
            $this->bytesTotal,
            $this->bytesSent,
            $this->memoryPeak,
            $this->bytesSpilled,
            $this->nodes,
            $inputs,
            $note === '' ? $this->notes : [...$this->notes, $note],
            $this->onlyFilters,
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
            ? $this->with($inputs, $this->ownUs, '')
            : $this->with($inputs, $this->ownUs, "as {$alias}", new TableFacts($name));
    }

    public function title(): string
    {
        return $this->kind->label().($this->table === null ? '' : " {$this->table->name}");
    }

    /** How far the estimate is from the truth, as a factor of at least 1. */
    public function errorFactor(): ?float
    {
        if ($this->estimatedRows === null || $this->actualRows === null) {
            return null;
        }
        $estimated = max(1.0, $this->estimatedRows);
        // Estimates are of one loop.
        $actual = max(1.0, $this->actualRows / max(1, $this->loops));

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
        $sum = $this->ownUs;
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
        /** @var array<string, mixed> $values */
        $values = get_object_vars($this);
        $values['kind'] = $this->kind->value;
        $values['table'] = $this->table?->toArray();
        $values['nodes'] = array_map(get_object_vars(...), $this->nodes);
        $values['inputs'] = array_map(static fn (self $input): array => $input->toArray(), $this->inputs);

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
            $f->maybeFloat('estimatedRows'),
            $f->maybeFloat('actualRows'),
            $f->maybeFloat('rowsIn'),
            max(1, $f->int('loops')),
            $f->maybeInt('ownUs'),
            $f->maybeInt('chunksRead'),
            $f->maybeInt('chunksTotal'),
            $f->maybeInt('partitionsRead'),
            $f->maybeInt('partitionsTotal'),
            $f->maybeInt('bytesRead'),
            $f->maybeInt('bytesTotal'),
            $f->maybeInt('bytesSent'),
            $f->maybeInt('memoryPeak'),
            $f->maybeInt('bytesSpilled'),
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
        );
    }
}
