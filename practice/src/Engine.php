<?php

declare(strict_types=1);

namespace Fulcrion\Practice;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Limits\StatementEstimate;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\RangeRewrites;
use Fulcrion\Practice\Logical\Field;
use Fulcrion\Practice\Logical\RelationNode;
use Fulcrion\Practice\Physical\Batch;
use Fulcrion\Practice\Physical\ChunkCache;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Physical\PlanExport;
use Fulcrion\Practice\Physical\Planner;
use Fulcrion\Practice\Physical\Run;
use Fulcrion\Practice\Physical\ScanStep;
use Fulcrion\Practice\Physical\Step;
use Fulcrion\Practice\Physical\TimeModel;
use Fulcrion\Practice\Rollups\LookupRule;
use Fulcrion\Practice\Rollups\RollupRule;
use Fulcrion\Practice\Sql\QueryBinder;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Sql\TableChanges;
use Fulcrion\Practice\Storage\Warehouse;

/**
 * Runs SQL on a practice cluster.
 */
final readonly class Engine
{
    private Parser $parser;

    public function __construct(
        public Warehouse $warehouse,
        private ChunkCache $cache = new ChunkCache(),
        private Switches $switches = new Switches(),
    ) {
        $this->parser = new Parser();
    }

    /** The same without some of the planner's rewrites. */
    public function with(Switches $switches): self
    {
        return new self($this->warehouse, $this->cache, $switches);
    }

    /**
     * @throws WarehouseError
     * @throws \Fulcrion\Core\Sql\SyntaxError
     */
    public function run(string $sql, Session $session, Limits $limits): Outcome
    {
        $sql = $this->rewritten($sql);
        $statement = $this->parser->statement($sql);
        if ($statement instanceof Ast\Query) {
            return $this->query($statement, $sql, $session, $limits);
        }
        if ($statement instanceof Ast\Explain) {
            $plan = $statement->run ? $this->actual($sql, $session, $limits) : $this->explain($sql, $session);

            return new Outcome([], [], false, 0, $plan, 0, $plan === null ? 'This statement has no plan.' : 'Plan');
        }
        $start = ($limits->clockNs)();
        [$rows, $message] = (new TableChanges($this, $this->warehouse, $session, $limits))->apply($statement, $sql);

        return new Outcome([], [], false, $rows, null, intdiv(($limits->clockNs)() - $start, 1000), $message);
    }

    /** The statement as it is to be run: filters of registered ones are said as spans of their columns. */
    private function rewritten(string $sql): string
    {
        $registered = $this->switches->on(Switches::SPANS) ? $this->warehouse->rewritings() : [];
        $types = $registered === [] ? null : $registered[(new Fingerprinter(Dialect::Ansi))->of($sql)->id] ?? null;

        return $types === null ? $sql : RangeRewrites::statement($sql, $types) ?? $sql;
    }

    /** The plan of a query with what it did. Nothing that changes tables is run for its figures. */
    public function actual(string $sql, Session $session, Limits $limits): Plan
    {
        $sql = $this->rewritten($sql);
        $statement = $this->parser->statement($sql);
        $statement = $statement instanceof Ast\Explain ? $statement->statement : $statement;
        if (! ($statement instanceof Ast\Query)) {
            throw new WarehouseError(
                'Only queries are run for their figures; take the query out of this statement, or explain it without running.',
                $statement->at,
            );
        }
        $relation = (new QueryBinder($this->warehouse, $session))->query($statement);

        return $this->stream($relation, $sql, $session, $limits, static fn (): bool => true);
    }

    /**
     * The plan a query would run by.
     *
     * @param  float  $loopBelow as in Planner
     */
    public function explain(string $sql, Session $session, float $loopBelow = 0.0): ?Plan
    {
        $sql = $this->rewritten($sql);
        $planned = $this->planned($sql, $session, $loopBelow);
        if ($planned === null) {
            return null;
        }
        [$root, $planner, $remarks] = $planned;

        return (new PlanExport($this->warehouse, $session->nowUs))->plan($root, $planner->subqueries, null, $sql, $remarks);
    }

    /** What a query will read at most and how long its scans take, by the facts of its tables; null for what reads nothing. */
    public function estimate(string $sql, Session $session): ?StatementEstimate
    {
        $planned = $this->planned($this->rewritten($sql), $session, 0.0);
        if ($planned === null) {
            return null;
        }
        $model = new TimeModel($this->warehouse->profile);
        [$bytes, $us] = [0, 0];
        foreach ([$planned[0], ...$planned[1]->subqueries] as $root) {
            foreach ($this->scans($root) as $scan) {
                $most = 0;
                foreach ($scan->expected($this->warehouse->nodes) as $counters) {
                    $bytes += $counters->bytesRead;
                    $most = max($most, $model->nodeUs($scan, $counters));
                }
                $us += $most;
            }
        }

        return new StatementEstimate($bytes * $this->warehouse->profile->rowFactor, $us);
    }

    /**
     * @return list<ScanStep> below a step
     */
    private function scans(Step $step): array
    {
        return [
            ...($step instanceof ScanStep ? [$step] : []),
            ...array_merge([], ...array_map($this->scans(...), $step->inputs)),
        ];
    }

    /**
     * @return array{Step, Planner, list<string>}|null the plan of the query in a statement, and remarks on it
     */
    private function planned(string $sql, Session $session, float $loopBelow): ?array
    {
        $statement = $this->parser->statement($sql);
        $statement = $statement instanceof Ast\Explain ? $statement->statement : $statement;
        $query = match (true) {
            $statement instanceof Ast\Query => $statement,
            $statement instanceof Ast\Insert => $statement->source,
            $statement instanceof Ast\CreateTable => $statement->source,
            default => null,
        };
        if ($query === null) {
            return null;
        }
        [$planner, $rollups, $lookups] = $this->planner($session, $loopBelow);
        $root = $planner->plan((new QueryBinder($this->warehouse, $session))->query($query));

        return [$root, $planner, array_values([...$rollups->remarks, ...$lookups->remarks])];
    }

    /**
     * @param  callable(Batch, list<Field>): bool  $take gets the rows; false to stop
     * @return Plan with what was counted
     */
    public function stream(RelationNode $relation, string $sql, Session $session, Limits $limits, callable $take): Plan
    {
        [$planner, $rollups, $lookups] = $this->planner($session);
        $root = $planner->plan($relation);
        $run = new Run($this->warehouse->nodes, $this->warehouse->profile, $this->cache, $limits, $planner->subqueries, $lookups->maps);
        if ($limits->meter?->mostUs !== null) {
            $model = new TimeModel($this->warehouse->profile);
            $run->modelledUs = fn (): int => array_sum(array_map(
                fn (Step $step): int => $model->treeUs($step, $this->warehouse->nodes),
                [$root, ...$planner->subqueries],
            ));
        }
        foreach ($root->batches($run, 0) as $batch) {
            $run->tick();
            if (! $take($batch, $root->fields)) {
                break;
            }
        }

        $run->meter();
        foreach ([...$rollups->used, ...$lookups->used] as [$one, $savedUs, $savedBytes]) {
            $this->warehouse->rollupBook()->used($one, $session->nowUs, $savedUs, $savedBytes);
        }

        return (new PlanExport($this->warehouse, $session->nowUs))->plan($root, $planner->subqueries, $run->subqueryRuns, $sql, [
            ...$rollups->remarks,
            ...$lookups->remarks,
        ]);
    }

    /**
     * @return array{Planner, RollupRule, LookupRule}
     */
    private function planner(Session $session, float $loopBelow = 0.0): array
    {
        $rollups = new RollupRule($this->warehouse, $session);
        $lookups = new LookupRule($this->warehouse, $session->nowUs);

        return [
            new Planner($this->warehouse->nodes, $loopBelow, $this->switches, $rollups, $lookups, $session->careful),
            $rollups,
            $lookups,
        ];
    }

    private function query(Ast\Query $query, string $sql, Session $session, Limits $limits): Outcome
    {
        $start = ($limits->clockNs)();
        $relation = (new QueryBinder($this->warehouse, $session))->query($query);
        $fields = $relation->fields();
        $rows = [];
        $cut = false;
        $plan = $this->stream($relation, $sql, $session, $limits, static function (Batch $batch) use (
            $fields,
            &$rows,
            &$cut,
            $limits,
        ): bool {
            for ($i = 0; $i < $batch->rows; $i++) {
                if (count($rows) >= $limits->rows) {
                    $cut = true;

                    return false;
                }
                $row = [];
                foreach ($fields as $field) {
                    $row[] = $batch->columns[$field->id][$i];
                }
                $rows[] = $row;
            }

            return true;
        });

        return new Outcome(
            array_map(static fn (Field $field): Column => new Column($field->name, $field->type, $field->nullable), $fields),
            $rows,
            $cut,
            0,
            $plan,
            intdiv(($limits->clockNs)() - $start, 1000),
        );
    }
}
