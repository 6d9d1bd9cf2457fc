<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Connectors\ReadAt;
use App\Estate\Connectors\SourceError;
use App\Estate\Connectors\TableKeeper;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Change;
use App\Platform\Runs\Progress;
use App\Platform\Support\Clock;
use Closure;
use Fulcrion\Core\Proofs\Proof;
use Fulcrion\Core\Proofs\ProofLine;
use Fulcrion\Core\Sql\RangeRewrites;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Storage\TableChangeKind;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\TableSteps;
use Fulcrion\Core\Text\Quantity;

/**
 * Tries a change on copies of its table: one as it is, one as it would be.
 */
final readonly class TableRehearsal
{
    public function __construct(private TableMeasurement $measurement)
    {
    }

    /** @throws SourceError */
    public function run(Change $change, string $by, Progress $progress): void
    {
        [$place, $keeper] = $this->place($change->cluster);
        $home = $this->measurement->keeper($change->cluster);
        $statements = $this->measurement->statements($change);
        $schema = TableMeasurement::schema($change);
        $stop = $progress->stop();
        $keeper->dropSchema($schema);
        try {
            $keeper->makeSchema($schema);
            $before = "{$schema}.as_it_is";
            $progress->tell("copying {$change->object} to {$place->name}", 0.02);
            $rows = $keeper->borrow($home, $change->object, $before, $change->copy_share, $stop);
            if ($rows === 0) {
                throw new SourceError("{$change->object} is empty, so there is nothing to compare. Fill it, or drop the change.");
            }
            $kind = TableChangeKind::from($change->kind);
            $after = $this->changed($change, $kind, $place, $keeper, $before, $progress, $stop);
            $stored =
                $kind === TableChangeKind::Rewrite
                    ? []
                    : TableMeasurement::stored($this->measurement->bytes($place, $before), $this->measurement->bytes($place, $after));
            $at = new ReadAt(Clock::microseconds(), $keeper->versions());
            $lines = [];
            foreach ($statements as $i => $statement) {
                $progress->tell(
                    'statement '.($i + 1).' of '.count($statements).', before and after, cold and warm',
                    0.3 + (0.65 * $i) / count($statements),
                );
                $read = fn (string $sql, string $table): string => Reading::with(
                    $sql,
                    $change->object,
                    $table,
                    $statement['schema'],
                    $change->cluster->dialect,
                );
                $one = $this->measurement->one($keeper, $read($statement['sql'], $before), $statement['schema'], $stop, $at);
                $rewritten = $kind === TableChangeKind::Rewrite && $statement['id'] === $change->expected['statement'];
                $sql = $rewritten ? $this->rewritten($change, $statement['sql']) : $statement['sql'];
                $other = $this->measurement->one($keeper, $read($sql, $after), $statement['schema'], $stop, $at);
                $lines[] = new ProofLine($statement['id'], $statement['text'], $statement['executions'], $one, $other);
            }
            $writing = $this->measurement->writing($change);
            // Last, since what they write stays on the copies.
            array_push($lines, ...$this->measurement->written($keeper, $change, $writing, $before, $after, $stop));
            $this->measurement->keep(
                $change,
                'rehearsal',
                new Proof($lines),
                $by,
                $place,
                [
                    'where' => "{$place->name}, on ".
                        ($change->copy_share < 1
                            ? 'a sampled copy of '.Quantity::percent($change->copy_share).' of the chunks'
                            : 'a whole copy'),
                    'rows' => Quantity::count($rows),
                    'each statement' => 'once cold (nothing in memory), once warm; other tables as they are on '.$place->name,
                ] + $stored,
            );
        } finally {
            $keeper->dropSchema($schema);
        }
    }

    /** Takes away what a rehearsal that was killed has left. */
    public function clear(Change $change): void
    {
        $this->place($change->cluster)[1]->dropSchema(TableMeasurement::schema($change));
    }

    /**
     * @param  Closure(): bool  $stop
     * @return string the copy as it would be
     */
    private function changed(
        Change $change,
        TableChangeKind $kind,
        Cluster $place,
        TableKeeper $keeper,
        string $before,
        Progress $progress,
        Closure $stop,
    ): string {
        if ($kind === TableChangeKind::Rewrite) {
            return $before;
        }
        $schema = TableMeasurement::schema($change);
        $after = "{$schema}.as_it_would_be";
        if ($kind === TableChangeKind::Rebuild) {
            $definition = TableDefinition::fromArray(
                $change->expected['definition'] ?? throw new SourceError('The change says no layout.'),
            );
            $statistics = array_map(strval(...), array_keys($this->measurement->layout($place, $before)->statistics->columns ?? []));
            foreach (TableSteps::build($definition, $before, $after, $statistics) as $i => $sql) {
                $progress->tell(StepWords::of($sql), 0.1 + 0.1 * $i);
                $keeper->apply($sql, $stop);
            }

            return $after;
        }
        // Of the copy and not of the table itself, which may hold other rows by now.
        $keeper->borrow($keeper, $before, $after, 1.0, $stop);
        $steps = $change->sealed_steps;
        if ($kind === TableChangeKind::Rollups) {
            foreach (array_filter($change->sealed_inverse, TableSteps::makesRollup(...)) as $sql) {
                // What the change takes away has to be there before.
                $keeper->apply(TableSteps::elsewhere($sql, $change->object, $before, $schema), $stop);
            }
            $steps = array_filter($steps, TableSteps::makesRollup(...));
        }
        foreach ($steps as $sql) {
            $progress->tell(StepWords::of($sql), 0.2);
            $keeper->apply(TableSteps::elsewhere($sql, $change->object, $after, $schema), $stop);
        }

        return $after;
    }

    private function rewritten(Change $change, string $sql): string
    {
        $types = [];
        foreach ($this->measurement->layout($change->cluster, $change->object)->definition->columns ?? [] as $column) {
            $types[$column->name] = $column->type->kind->value;
        }

        return RangeRewrites::statement($sql, $types, $change->cluster->dialect) ?? $sql;
    }

    /**
     * @return array{Cluster, TableKeeper} a cluster for rehearsals where there is one
     */
    private function place(Cluster $cluster): array
    {
        /** @var list<Cluster> $candidates */
        $candidates = Cluster::query()->where('role', 'rehearsal')->where('id', '!=', $cluster->id)->orderBy('id')->get()->all();
        foreach ($candidates as $candidate) {
            $keeper = $this->measurement->reach()->keeper($candidate);
            if ($keeper !== null) {
                return [$candidate, $keeper];
            }
        }

        return [$cluster, $this->measurement->keeper($cluster)];
    }
}
