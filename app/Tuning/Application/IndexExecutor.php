<?php

declare(strict_types=1);

namespace App\Tuning\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\IndexSource;
use App\Estate\Connectors\MariaDbTables;
use App\Estate\Connectors\SourceError;
use App\Ledger\Changes\ChangeAction;
use App\Ledger\Changes\ChangeExecutor;
use App\Ledger\Changes\ChangeState;
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
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Text\Quantity;

/**
 * Tries indexes on copies of their tables, and makes them on the tables when that was approved.
 */
final readonly class IndexExecutor implements ChangeExecutor
{
    public const KIND = 'index';

    /** Rows that are copied of larger tables, about. */
    private const SAMPLE_ROWS = 100_000;

    public function __construct(private Clusters $clusters, private WorkloadReader $workload)
    {
    }

    public function prepare(Change $change, Proposal $proposal): void
    {
        // Its steps and their inverse are known when it is proposed. Large tables are tried on a sample unless somebody wants otherwise.
        $rows = $this->source($change)->rows($change->object);
        if ($rows > self::SAMPLE_ROWS) {
            $change->copy_share = max(0.01, round(self::SAMPLE_ROWS / $rows, 2));
        }
    }

    public function rehearse(Change $change, string $by, Progress $progress): void
    {
        $source = $this->source($change);
        // Before anybody approves what could not be done then.
        $lacking = $source->lacking($change->object);
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
        $this->keep($change, 'rehearsal', $statements, $before, $after, $by, [
            'where' => "{$change->cluster->name}, on a ".
                ($change->copy_share < 1 ? 'copy of '.Quantity::percent($change->copy_share).' of the rows' : 'whole copy').
                ' in another schema, gone again',
            'rows' => Quantity::count($rows).', copied in '.Quantity::duration($copyUs).' in small parts, at most half of the time at work',
            'the index' => 'made on the copy in '.Quantity::duration($buildUs),
            'each statement' => 'three times, the shortest counts; rows and plan from ANALYZE FORMAT=JSON',
        ]);
    }

    public function apply(Change $change, string $by, Progress $progress): void
    {
        $source = $this->source($change);
        $statements = $this->statements($change);
        $before = $this->all($source, $statements, $change, null, $progress, 'before', 0.05, 0.4);
        foreach ($change->sealed_steps as $sql) {
            $progress->tell("making the index on {$change->object}", 0.45);
            $source->online($sql);
        }
        $change->enter(ChangeState::Applied, $by);
        $after = $this->all($source, $statements, $change, null, $progress, 'after', 0.6, 0.95);
        $this->keep($change, 'applied', $statements, $before, $after, $by, [
            'where' => "{$change->cluster->name}, on the table itself",
            'each statement' => 'three times right before and right after, the shortest counts',
            'contents' => 'not touched',
        ]);
    }

    public function undo(Change $change, string $by, Progress $progress): void
    {
        foreach ($change->sealed_inverse as $sql) {
            $progress->tell('taking the index away', 0.5);
            $this->source($change)->online($sql);
        }
    }

    public function withdraw(Change $change, ChangeAction $action): string
    {
        return '';
    }

    public function recover(Change $change, ChangeAction $action): string
    {
        try {
            $this->source($change)->forget(self::copyOf($change));
        } catch (SourceError) {
            return 'The worker was killed, and its copy could not be cleared away; look for it in the schema for rehearsals.';
        }

        return 'The worker was killed. Its copy was cleared away; an index is made wholly or not at all, so look whether it is there '
            .'before you try again.';
    }

    private function source(Change $change): IndexSource
    {
        return $this->clusters->as(Actor::system(SystemActor::Rehearsal, 'a change of indexes'))->indexes($change->cluster) ??
            throw new SourceError("Indexes of {$change->cluster->name} cannot be changed from here.");
    }

    /**
     * @return list<array{id: string, text: string, sql: string, schema: string, executions: float}>
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
            $sql = $statement === null ? null : self::reading($statement);
            if ($statement !== null && $sql !== null) {
                $chosen[] = [
                    'id' => $one['id'],
                    'text' => (new Fingerprinter(Dialect::MariaDb))->of($sql)->text,
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

    /** The part that reads; null where values were not kept. */
    public static function reading(StatementUse $statement): ?string
    {
        try {
            return Reading::hasHiddenValues($statement->sql)
                ? null
                : Reading::of($statement->sql, Dialect::MariaDb);
        } catch (SyntaxError) {
            return null;
        }
    }

    /**
     * @param  list<array{id: string, text: string, sql: string, schema: string, executions: float}>  $statements
     * @return list<Measured>
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
        foreach ($statements as $i => $statement) {
            $progress->tell(
                'statement '.($i + 1).' of '.count($statements).", {$when} the index",
                $from + (($to - $from) * $i) / count($statements),
            );
            try {
                $all[] = $source->measure(
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
                $all[] = Measured::failed($error->getMessage());
            }
        }

        return $all;
    }

    private static function copyOf(Change $change): string
    {
        return explode('.', $change->object, 2)[0]."_rehearsal.try_{$change->id}";
    }

    /**
     * @param  list<array{id: string, text: string, sql: string, schema: string, executions: float}>  $statements
     * @param  list<Measured>  $before
     * @param  list<Measured>  $after
     * @param  array<string, string>  $conditions
     */
    private function keep(Change $change, string $kind, array $statements, array $before, array $after, string $by, array $conditions): void
    {
        $proof = new Proof(
            array_map(
                static fn (array $statement, int $i): ProofLine => new ProofLine(
                    $statement['id'],
                    $statement['text'],
                    $statement['executions'],
                    $before[$i],
                    $after[$i],
                ),
                $statements,
                array_keys($statements),
            ),
        );
        ProofRecord::keep($change, $kind, $proof, $by, $conditions);
    }
}
