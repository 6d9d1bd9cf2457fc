<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\LayoutSource;
use App\Ledger\Models\Change;
use App\Telemetry\Workload\WorkloadReader;
use Closure;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Storage\Workload;
use Illuminate\Support\Facades\DB;

/**
 * Which statements a change is measured by.
 */
final readonly class ChosenStatements
{
    private const MOST = 6;

    /** A statement that takes longer than this on average is not run again and again. */
    private const LONGEST_US = 600_000_000;

    public function __construct(private Clusters $clusters, private WorkloadReader $reader)
    {
    }

    /**
     * Those with the largest share of the load that touch a table and read.
     *
     * @return list<array{id: string, executions: float}>
     */
    public static function byLoad(Workload $workload, string $table, int $most = self::MOST): array
    {
        $chosen = [];
        foreach (self::candidates($workload, $table) as $s) {
            // Statements that do the same with the table would only repeat each other.
            $like = json_encode(
                array_map(static fn (TableUse $use): array => [$use->table, $use->filtered(), $use->grouped, $use->joins], $s->tables),
                JSON_PARTIAL_OUTPUT_ON_ERROR,
            );
            $chosen[(string) $like] ??= ['id' => $s->id, 'executions' => $s->executions];
        }

        return array_slice(array_values($chosen), 0, $most);
    }

    /**
     * @return list<StatementUse> most load first
     */
    public static function candidates(Workload $workload, string $table): array
    {
        $candidates = array_values(
            array_filter(
                $workload->touching($table)->statements,
                static fn (StatementUse $s): bool => $s->durationUs / max(0.01, $s->executions) < self::LONGEST_US &&
                    (self::reading($s->sql) !== null || self::writes($s, $table)),
            ),
        );
        usort($candidates, static fn (StatementUse $a, StatementUse $b): int => $b->durationUs <=> $a->durationUs);

        return $candidates;
    }

    /**
     * Statements a change may be measured by, most load first.
     *
     * @return list<StatementUse>
     */
    public function choosable(Change $change): array
    {
        $source = $this->source($change);
        $workload = $this->reader->of($change->cluster, $source?->layouts() ?? [], $change->object);
        if ($source !== null) {
            return self::candidates($workload, $change->object);
        }
        // Of a live server only the texts are known.
        $name = substr($change->object, (int) strpos($change->object, '.') + 1);
        $naming = array_values(
            array_filter(
                $workload->statements,
                static fn (StatementUse $s): bool => preg_match('~\b'.preg_quote($name, '~').'\b~i', $s->sql) === 1 &&
                    self::reading($s->sql, $change->cluster->dialect) !== null,
            ),
        );
        usort($naming, static fn (StatementUse $a, StatementUse $b): int => $b->durationUs <=> $a->durationUs);

        return $naming;
    }

    /**
     * @return list<array{id: string, text: string, sql: string, schema: string, executions: float}>
     */
    public function of(Change $change): array
    {
        return $this->chosen($change, static fn (StatementUse $statement): ?string => self::reading($statement->sql));
    }

    /**
     * Those that write rows of their own into its table, to be run on copies and nowhere else.
     *
     * @return list<array{id: string, text: string, sql: string, schema: string, executions: float}>
     */
    public function writing(Change $change): array
    {
        // A live server is only watched.
        return $this->source($change) === null
            ? []
            : $this->chosen(
                $change,
                static fn (StatementUse $statement): ?string => self::writes($statement, $change->object) ? $statement->sql : null,
            );
    }

    /**
     * @param  Closure(StatementUse): ?string  $run what of a statement is run; null where it is not
     * @return list<array{id: string, text: string, sql: string, schema: string, executions: float}>
     */
    private function chosen(Change $change, Closure $run): array
    {
        $workload = $this->reader->of($change->cluster, $this->source($change)?->layouts() ?? [], $change->object);
        $byId = [];
        foreach ($workload->statements as $statement) {
            $byId[$statement->id] = $statement;
        }
        $texts = DB::table('statements')->whereIn('fingerprint', array_column($change->workload, 'id'))->pluck('text', 'fingerprint');
        $chosen = [];
        foreach ($change->workload as $one) {
            $statement = $byId[$one['id']] ?? null;
            $sql = $statement === null ? null : $run($statement);
            if ($statement !== null && $sql !== null) {
                $chosen[] = [
                    'id' => $one['id'],
                    'text' => (string) ($texts[$one['id']] ?? (new Fingerprinter($change->cluster->dialect))->of($sql)->text),
                    'sql' => $sql,
                    'schema' => $statement->schema,
                    'executions' => (float) $one['executions'],
                ];
            }
        }

        return $chosen;
    }

    private function source(Change $change): ?LayoutSource
    {
        return $this->clusters
            ->as(Actor::system(SystemActor::Rehearsal, 'statements a change is measured by'))
            ->layouts($change->cluster);
    }

    private static function writes(StatementUse $statement, string $table): bool
    {
        try {
            return ! Reading::hasHiddenValues($statement->sql) && Reading::insertsInto($statement->sql, $statement->schema) === $table;
        } catch (SyntaxError) {
            return false;
        }
    }

    private static function reading(string $sql, Dialect $dialect = Dialect::Ansi): ?string
    {
        try {
            return Reading::hasHiddenValues($sql) ? null : Reading::of($sql, $dialect);
        } catch (SyntaxError) {
            return null;
        }
    }
}
