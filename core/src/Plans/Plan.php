<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

use JsonException;

/**
 * How an engine runs, or ran, a statement.
 */
final readonly class Plan
{
    public const FORMAT = 'fulcrion-plan/1';

    public function __construct(
        public PlanStep $root,
        /** practice or mariadb */
        public string $engine,
        /** Whether step times are computed by the model of the practice cluster rather than taken by a clock. */
        public bool $modelled,
        /** Whether it ran, so that there are actual figures. */
        public bool $actual,
        public ?int $totalUs = null,
        public string $statement = '',
        /** Nodes of the cluster it is of. */
        public int $nodeCount = 1,
        /** Stored rows stand for this many each; 1 where nothing is scaled. */
        public int $rowFactor = 1,
        /** @var list<string> what the planner used of what was prepared, and why not */
        public array $remarks = [],
    ) {
    }

    /**
     * @return list<PlanStep> from the top
     */
    public function steps(): array
    {
        return $this->root->all();
    }

    /** Plans of the same shape on the same tables have the same fingerprint, whatever the figures. */
    public function fingerprint(): string
    {
        return hash('xxh128', $this->shape($this->root));
    }

    /**
     * The plan with tables named in full where it only knows their aliases.
     *
     * @param  array<string, string>  $names alias => table
     */
    public function named(array $names, string $statement): self
    {
        return new self(
            $this->root->named($names),
            $this->engine,
            $this->modelled,
            $this->actual,
            $this->totalUs,
            $statement,
            $this->nodeCount,
            $this->rowFactor,
            $this->remarks,
        );
    }

    /** The step most time goes into; null when no times are known. */
    public function hottest(): ?PlanStep
    {
        $hottest = null;
        foreach ($this->steps() as $step) {
            if ($step->cost->ownUs !== null && $step->cost->ownUs > ($hottest->cost->ownUs ?? 0)) {
                $hottest = $step;
            }
        }

        return $hottest;
    }

    public function sumUs(): ?int
    {
        return $this->totalUs ?? $this->root->cumulativeUs();
    }

    public function toJson(): string
    {
        return json_encode(
            [
                'format' => self::FORMAT,
                'engine' => $this->engine,
                'time' => $this->modelled ? 'modelled' : 'measured',
                'actual' => $this->actual,
                'totalUs' => $this->totalUs,
                'statement' => $this->statement,
                'nodeCount' => $this->nodeCount,
                'rowFactor' => $this->rowFactor,
                'remarks' => $this->remarks,
                'fingerprint' => $this->fingerprint(),
                'root' => $this->root->toArray(),
            ],
            JSON_THROW_ON_ERROR | JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE,
        );
    }

    /**
     * Reads a plan of our own format, or of MariaDB's EXPLAIN or ANALYZE FORMAT=JSON.
     *
     * @throws PlanError
     */
    public static function read(string $json): self
    {
        try {
            $f = Fields::of(json_decode($json, true, 512, JSON_THROW_ON_ERROR));
        } catch (JsonException $exception) {
            throw new PlanError('The text is not JSON: '.lcfirst($exception->getMessage()).'.');
        }
        if ($f->has('query_block')) {
            return (new MariaDbPlanReader())->read($f);
        }
        if ($f->text('format') !== self::FORMAT) {
            throw new PlanError(
                'The JSON is neither a plan of the format '.
                    self::FORMAT.
                    ' (its "format" says so) nor the output of EXPLAIN FORMAT=JSON or ANALYZE FORMAT=JSON (which has a "query_block").',
            );
        }

        return new self(
            PlanStep::fromFields($f->inner('root')),
            $f->text('engine'),
            $f->text('time') === 'modelled',
            $f->bool('actual'),
            $f->maybeInt('totalUs'),
            $f->text('statement'),
            max(1, $f->int('nodeCount')),
            max(1, $f->int('rowFactor')),
            $f->has('remarks') ? $f->texts('remarks') : [],
        );
    }

    private function shape(PlanStep $step): string
    {
        // By which index a live server reads makes all the difference.
        $index = $this->engine === 'mariadb' && $step->index !== '' ? "@{$step->index}" : '';

        return "{$step->kind->value}:{$step->table?->name}{$index}(".implode(',', array_map($this->shape(...), $step->inputs)).')';
    }
}
