<?php

declare(strict_types=1);

namespace App\Tuning\Application;

use App\Estate\Connectors\IndexSource;
use App\Estate\Connectors\MariaDbTables;
use App\Estate\Connectors\SourceError;
use App\Ledger\Changes\ChangeAction;
use App\Ledger\Changes\ChangeExecutor;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Changes\EstimatesRehearsal;
use App\Ledger\Changes\Proposal;
use App\Ledger\Models\Change;
use App\Ledger\Models\ProofRecord;
use App\Platform\Runs\Progress;
use App\Telemetry\Workload\WorkloadReader;
use Fulcrion\Core\Proofs\Measured;
use Fulcrion\Core\Proofs\Proof;
use Fulcrion\Core\Proofs\ProofLine;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Text\Quantity;

/**
 * Tries indexes on copies of their tables, and makes them on the tables when that was approved.
 */
final readonly class IndexExecutor implements ChangeExecutor, EstimatesRehearsal
{
    public const KIND = 'index';

    /** Rows that are copied of larger tables, about. */
    private const SAMPLE_ROWS = 100_000;

    /** Measuring before the index takes so long at most; what comes after that is named instead. */
    private const BUDGET_SECONDS = 300;

    public function __construct(private RehearsalPlan $plan, private WorkloadReader $workload)
    {
    }

    public function prepare(Change $change, Proposal $proposal): void
    {
        // Its steps and their inverse are known when it is proposed. Large tables are tried on a sample unless somebody wants otherwise.
        $rows = $this->plan->source($change->cluster)->rows($change->object);
        if ($rows > self::SAMPLE_ROWS) {
            $change->update(['copy_share' => max(0.01, round(self::SAMPLE_ROWS / $rows, 2))]);
        }
        $this->estimate($change);
    }

    public function estimate(Change $change): void
    {
        try {
            $change->update(['expected' => ['rehearsal' => $this->plan->estimate($change)->toArray()] + $change->expected]);
        } catch (SourceError) {
            // It is told when it is rehearsed; without an estimate one can rehearse as well.
            $change->update(['expected' => array_diff_key($change->expected, ['rehearsal' => 1])]);
        }
    }

    public function rehearse(Change $change, string $by, Progress $progress): void
    {
        $place = $this->plan->place($change);
        $source = $this->plan->source($place);
        $isElsewhere = ! $place->is($change->cluster);
        // Before anybody approves what could not be done then.
        $this->plan->check($change);
        $lacking = [
            ...$this->plan->source($change->cluster)->lacking($change->object, rehearses: ! $isElsewhere),
            ...$isElsewhere ? $source->lacking($change->object, changes: false) : [],
        ];
        if ($lacking !== []) {
            throw new SourceError('The account of the cluster may not do all this takes. Allow it: '.implode('; ', $lacking));
        }
        $statements = $this->statements($change);
        $name = "try_{$change->id}";
        $began = hrtime(true);
        $isCopied = false;
        try {
            [$copy, $rows] = $source->copy($change->object, $name, $change->copy_share, static fn (float $part) => $progress->checkpoint(
                "copying {$change->object} to a schema for rehearsals, in small parts",
                0.02 + 0.18 * $part,
            ));
            $isCopied = true;
        } finally {
            // Stopped half-way, or refused.
            if (! $isCopied) {
                $source->forget(self::copyOf($change));
            }
        }
        $copyUs = intdiv((int) (hrtime(true) - $began), 1000);
        $buildUs = 0;
        try {
            $before = $this->all($source, $statements, $change, $copy, $progress, 'before', 0.2, 0.5);
            $statements = array_intersect_key($statements, array_filter($before, self::ran(...)));
            foreach ($change->sealed_steps as $sql) {
                $progress->tell('making the index on the copy', 0.55);
                $began = hrtime(true);
                $source->apply(str_replace(MariaDbTables::path($change->object), MariaDbTables::path($copy), $sql));
                $buildUs += intdiv((int) (hrtime(true) - $began), 1000);
            }
            $after = $this->all($source, $statements, $change, $copy, $progress, 'after', 0.6, 0.95);
        } finally {
            $source->forget($copy);
        }
        $probe = $source->probe($change->object);
        $this->keep($change, 'rehearsal', $statements, $before, $after, $by, [
            'where' => "{$place->name}, on a ".
                ($change->copy_share < 1 ? 'copy of '.Quantity::percent($change->copy_share).' of the rows' : 'whole copy').
                ' in another schema, gone again',
            ...$this->plan->differences($change),
            'rows' => Quantity::count($rows).', copied in '.Quantity::duration($copyUs).' in small parts, at most half of the time at work',
            'the index' => 'made on the copy in '.Quantity::duration($buildUs),
            'each statement' => 'three times, the shortest counts; rows and plan from ANALYZE FORMAT=JSON',
        ], [
            'cluster' => $place->id, 'rows' => $rows, 'bytes' => $rows * $probe['rowBytes'], 'copyUs' => $copyUs, 'buildUs' => $buildUs,
        ]);
    }

    public function apply(Change $change, string $by, Progress $progress): void
    {
        $source = $this->plan->source($change->cluster);
        $statements = $this->statements($change);
        $before = $this->all($source, $statements, $change, null, $progress, 'before', 0.05, 0.4);
        $statements = array_intersect_key($statements, array_filter($before, self::ran(...)));
        $buildUs = 0;
        foreach ($change->sealed_steps as $sql) {
            $progress->tell("making the index on {$change->object}", 0.45);
            $began = hrtime(true);
            $source->online($sql);
            $buildUs += intdiv((int) (hrtime(true) - $began), 1000);
        }
        $change->enter(ChangeState::Applied, $by);
        $after = $this->all($source, $statements, $change, null, $progress, 'after', 0.6, 0.95);
        $this->keep($change, 'applied', $statements, $before, $after, $by, [
            'where' => "{$change->cluster->name}, on the table itself",
            'the index' => (str_starts_with($change->sealed_steps[0] ?? '', 'CREATE') ? 'made' : 'dropped').' in '.
                Quantity::duration($buildUs).', while others could read and write the table',
            'each statement' => 'three times right before and right after, the shortest counts',
            'contents' => 'not touched',
        ]);
    }

    public function undo(Change $change, string $by, Progress $progress): void
    {
        foreach ($change->sealed_inverse as $sql) {
            $progress->tell('taking the index away', 0.5);
            $this->plan->source($change->cluster)->online($sql);
        }
    }

    public function withdraw(Change $change, ChangeAction $action): string
    {
        return '';
    }

    public function recover(Change $change, ChangeAction $action): string
    {
        try {
            $this->plan->source($this->plan->place($change))->forget(self::copyOf($change));
        } catch (SourceError) {
            return 'The worker was killed, and its copy could not be cleared away; look for it in the schema for rehearsals.';
        }

        return 'The worker was killed. Its copy was cleared away; an index is made wholly or not at all, so look whether it is there '
            .'before you try again.';
    }

    /**
     * @return array<string, array{id: string, text: string, sql: string, schema: string, executions: float}> by fingerprint
     */
    private function statements(Change $change): array
    {
        $byId = [];
        foreach ($this->workload->of($change->cluster, [])->statements as $statement) {
            $byId[$statement->id] = $statement;
        }
        $chosen = [];
        foreach ($change->workload as $one) {
            $statement = $byId[$one['id']] ?? null;
            $sql = $statement === null ? null : TableStatements::reading($statement);
            if ($statement !== null && $sql !== null) {
                $chosen[$one['id']] = [
                    'id' => $one['id'],
                    'text' => self::text($sql),
                    'sql' => $sql,
                    'schema' => $statement->schema,
                    'executions' => (float) $one['executions'],
                ];
            }
        }

        return $chosen === []
            ? throw new SourceError(
                'Of no chosen statement a run was kept with its values, so the index cannot be tried. Choose others, or wait until they '
                    .'run again.',
            )
            : $chosen;
    }

    /** Without its values. */
    private static function text(string $sql): string
    {
        return (new Fingerprinter(Dialect::MariaDb))->of($sql)->text;
    }

    private static function ran(Measured $measured): bool
    {
        return $measured->error === '';
    }

    /**
     * @param  array<string, array{id: string, text: string, sql: string, schema: string, executions: float}>  $statements
     * @return array<string, Measured> by fingerprint
     */
    private function all(
        IndexSource $source,
        array $statements,
        Change $change,
        ?string $copy,
        Progress $progress,
        string $when,
        float $from,
        float $to,
    ): array {
        $all = [];
        $began = hrtime(true);
        foreach ($statements as $id => $statement) {
            $i = count($all);
            // After the index each one is run that was run before it.
            if ($when === 'before' && intdiv((int) hrtime(true) - (int) $began, 1_000_000_000) > self::BUDGET_SECONDS) {
                $all[$id] = Measured::failed('The '.intdiv(self::BUDGET_SECONDS, 60).' min for measuring were over before its turn.');

                continue;
            }
            $progress->tell(
                'statement '.($i + 1).' of '.count($statements).", {$when} the index",
                $from + (($to - $from) * $i) / count($statements),
            );
            try {
                $all[$id] = $source->measure(
                    $copy === null
                        ? $statement['sql']
                        : Reading::with(
                            $statement['sql'],
                            $change->object,
                            MariaDbTables::path($copy),
                            $statement['schema'],
                            Dialect::MariaDb,
                        ),
                    $statement['schema'],
                );
            } catch (SourceError|SyntaxError $error) {
                $all[$id] = Measured::failed($error->getMessage());
            }
        }

        return $all;
    }

    private static function copyOf(Change $change): string
    {
        return explode('.', $change->object, 2)[0]."_rehearsal.try_{$change->id}";
    }

    /**
     * @param  array<string, array{id: string, text: string, sql: string, schema: string, executions: float}>  $statements that ran before
     * @param  array<string, Measured>  $before of all that were tried
     * @param  array<string, Measured>  $after
     * @param  array<string, string>  $conditions
     * @param  array<string, float|int>  $costs
     */
    private function keep(
        Change $change,
        string $kind,
        array $statements,
        array $before,
        array $after,
        string $by,
        array $conditions,
        array $costs = [],
    ): void {
        $proof = new Proof(array_values(array_map(
            static fn (array $statement): ProofLine => new ProofLine(
                $statement['id'],
                $statement['text'],
                $statement['executions'],
                $before[$statement['id']],
                $after[$statement['id']],
            ),
            $statements,
        )));
        ProofRecord::keep($change, $kind, $proof, $by, $conditions, [], $this->unmeasured($change, $before), $costs);
    }

    /**
     * All other statements that use the table, each with why it is not in the comparison.
     *
     * @param  array<string, Measured>  $before
     * @return list<array{statement: string, text: string, executions: float|null, reason: string}>
     */
    private function unmeasured(Change $change, array $before): array
    {
        $using = TableStatements::of($change->cluster, $change->object, $this->workload);
        $unmeasured = [];
        foreach ($using->all as $statement) {
            $measured = $before[$statement->id] ?? null;
            if ($measured !== null && self::ran($measured)) {
                continue;
            }
            $obstacle = $measured->error ?? TableStatements::obstacle($statement);
            $unmeasured[] = [
                'statement' => $statement->id,
                'text' => self::text($statement->sql),
                'executions' => $statement->executions,
                'reason' => $obstacle === '' ? 'It was not among those that were chosen.' : $obstacle,
            ];
        }
        foreach ($using->unread as $text) {
            $unmeasured[] = ['statement' => '', 'text' => self::text($text), 'executions' => null, 'reason' => 'Its text cannot be read.'];
        }

        return $unmeasured;
    }
}
