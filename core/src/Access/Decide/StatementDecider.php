<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Policy\Privilege;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\SyntaxError;

/**
 * Decides whether somebody may run a statement, and writes it so that it shows no more than it may: every table that is
 * not wholly visible becomes a query of its own, with the rows that are left and with masks in the place of values.
 * Filters, joins, groups and orders therefore see masked values only, and no question can be asked around a mask.
 *
 * A view is read with its owner's grants, but the rules and scopes of the reader hold for the tables below it as well:
 * it is computed from what its reader may see. A column of a view that needs a hidden one is hidden too.
 */
final readonly class StatementDecider
{
    private Printer $printer;

    public function __construct(
        private Policy $policy,
        private Reader $reader,
        private string $cluster,
        private string $schema = '',
        private Dialect $dialect = Dialect::Ansi,
        private Masking $masking = new Masking(),
    ) {
        $this->printer = new Printer($dialect);
    }

    public function decide(string $sql): StatementDecision
    {
        try {
            return $this->decideRead($sql, (new Parser($this->dialect))->statement($sql));
        } catch (SyntaxError $error) {
            return new StatementDecision($sql, null, [], [], [], [], $error->getMessage(), $error->offset);
        }
    }

    /**
     * The same for a statement that was read already, as when many people are asked about.
     *
     * @throws SyntaxError
     */
    public function decideRead(string $sql, Ast\Statement $statement): StatementDecision
    {
        $ruling = new Ruling($this->reader);
        try {
            // Once to see what is read and what for, and once to write it with what is left of each table.
            $first = $this->narrower($ruling, []);
            [, $columns] = $this->statement($statement, $first, $ruling);
            $judge = new ScopeJudge($this->policy, $ruling, $this->printer);
            $rows = array_map($judge->rows(...), $first->reads);
            foreach ($first->reads as $i => $read) {
                $read->narrowed = $rows[$i] !== null;
            }
            if ($statement instanceof Ast\CreateRollup) {
                $this->onlyPlain($first->reads, $ruling);
            }
            if ($ruling->refusals !== []) {
                return new StatementDecision(
                    $sql,
                    null,
                    array_values($ruling->refusals),
                    array_values($ruling->notes),
                    $columns,
                    $first->reads,
                );
            }
            $this->noteGroups($first->reads, $ruling);
            $again = new Ruling($this->reader);
            $second = $this->narrower($again, $first->reads, $rows);
            [$rewritten] = $this->statement($statement, $second, $again);
        } catch (Undecidable $error) {
            return new StatementDecision($sql, null, [], [], [], [], $error->getMessage(), $error->offset);
        }
        if ($again->refusals !== []) {
            return new StatementDecision($sql, null, array_values($again->refusals), array_values($ruling->notes), $columns, $first->reads);
        }
        $rewritten = $second->changed ? $this->printer->statement($rewritten) : $sql;

        return new StatementDecision($sql, $rewritten, [], array_values($ruling->notes), $columns, $first->reads);
    }

    /**
     * What the reader sees of each column of a table, or through a view.
     *
     * @return array<string, ColumnAccess>
     *
     * @throws SyntaxError
     */
    public function columnsOf(TableEntry $table): array
    {
        if ($table->view === null) {
            return $this->reader->table($table)->columns;
        }
        $ruling = new Ruling($this->reader);
        try {
            $columns = $this->narrower($ruling, [])->columnsOf($table);
        } catch (Undecidable $error) {
            $causes = [new Cause(Cause::LINEAGE, '', $table->path, $error->getMessage())];

            return array_map(static fn (): ColumnAccess => new ColumnAccess(Sight::Denied, null, $causes), $table->columns);
        }
        if ($ruling->refusals !== []) {
            $causes = array_merge([], ...array_map(static fn (Refusal $one): array => $one->causes, array_values($ruling->refusals)));

            return array_map(static fn (): ColumnAccess => new ColumnAccess(Sight::Denied, null, $causes), $table->columns);
        }

        return array_map(static fn (SeenColumn $column): ColumnAccess => $column->access, $columns);
    }

    /**
     * @param  list<TableRead>  $known reads as they were found the first time
     * @param  list<Ast\Expression|null>  $rows left of each of them
     */
    private function narrower(Ruling $ruling, array $known, array $rows = []): QueryNarrower
    {
        return new QueryNarrower($this->policy, $ruling, $this->cluster, $this->schema, $this->dialect, $this->masking, $known, $rows);
    }

    /**
     * @return array{Ast\Statement, list<SeenColumn>} as it is to be run, columns of its result
     *
     * @throws Undecidable
     * @throws SyntaxError
     */
    private function statement(Ast\Statement $s, QueryNarrower $narrower, Ruling $ruling): array
    {
        if ($s instanceof Ast\Query) {
            return $narrower->query($s, null, []);
        }
        if ($s instanceof Ast\Explain) {
            [$inner, $columns] = $this->statement($s->statement, $narrower, $ruling);

            return [new Ast\Explain($s->at, $s->run, $inner), $columns];
        }
        (new StatementNeeds($ruling, $this->cluster, $this->schema))->of($s);
        if ($s instanceof Ast\Insert) {
            return [new Ast\Insert($s->at, $s->table, $s->columns, $narrower->query($s->source, null, [])[0]), []];
        }
        if ($s instanceof Ast\Update || $s instanceof Ast\Delete) {
            return [$narrower->change($s), []];
        }
        if ($s instanceof Ast\CreateTable && $s->source !== null) {
            $source = $narrower->query($s->source, null, [])[0];

            return [new Ast\CreateTable($s->at, $s->name, $s->columns, $s->layout, $source, $s->orReplace, $s->unlessThere), []];
        }
        if ($s instanceof Ast\CreateView || $s instanceof Ast\CreateRollup) {
            // The text of a view is kept as it is written: what its readers see is decided when they read it.
            $narrower->query($s->query, null, []);
            $narrower->changed = false;
        }

        return [$s, []];
    }

    /**
     * A rollup or lookup is computed on whole tables and used for everybody, so whoever makes one must see them wholly.
     *
     * @param  list<TableRead>  $reads
     */
    private function onlyPlain(array $reads, Ruling $ruling): void
    {
        foreach ($reads as $read) {
            if (! $read->isPlain()) {
                $message = "Rollups and lookups are computed on all of a table, and {$ruling->who()} sees {$read->path} in part only.";
                $ruling->refuse(new Refusal(Refusal::CLOSED, $read->path, $message, [], Privilege::Select->value));
            }
        }
    }

    /**
     * @param  list<TableRead>  $reads
     */
    private function noteGroups(array $reads, Ruling $ruling): void
    {
        $smallest = QueryNarrower::smallest($this->policy);
        foreach ($smallest < 2 ? [] : $reads as $read) {
            if ($read->grouped) {
                $ruling->note(
                    "groups of {$read->path}",
                    Subject::show($this->reader->subject).
                        " may see {$read->path} in totals: groups of fewer than {$smallest} rows are left out.",
                );
            }
        }
    }
}
