<?php

declare(strict_types=1);

namespace App\Tuning\Application;

use App\Estate\Models\Cluster;
use App\Telemetry\Workload\WorkloadReader;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Storage\StatementUse;

/**
 * The statements of a live server that name a table, and which of them can be run to measure something.
 */
final readonly class TableStatements
{
    /** Measured at most: each is run eight times. */
    public const MOST = 20;

    /**
     * @param  list<StatementUse>  $all most load first
     * @param  list<string>  $unread texts that could not be read
     */
    private function __construct(public array $all, public array $unread)
    {
    }

    public static function of(Cluster $cluster, string $table, WorkloadReader $reader): self
    {
        $workload = $reader->of($cluster, [], $table);

        return new self(self::naming($workload->statements, $table), $workload->unreadNaming($table));
    }

    /**
     * @param  array<array-key, StatementUse>  $statements
     * @return list<StatementUse> most load first
     */
    public static function naming(array $statements, string $table): array
    {
        $name = substr($table, (int) strpos($table, '.') + 1);
        $naming = array_values(array_filter(
            $statements,
            static fn (StatementUse $s): bool => preg_match('~\b'.preg_quote($name, '~').'\b~i', $s->sql) === 1,
        ));
        usort($naming, static fn (StatementUse $a, StatementUse $b): int => [$b->durationUs, $a->id] <=> [$a->durationUs, $b->id]);

        return $naming;
    }

    /**
     * Those to be measured: the ones a proposal is for, then the others by their load.
     *
     * @param  array<array-key, StatementUse>  $statements of the whole server
     * @param  list<string>  $first fingerprints
     * @return list<array{id: string, executions: float}>
     */
    public static function chosen(array $statements, string $table, array $first): array
    {
        $own = array_filter($statements, static fn (StatementUse $s): bool => in_array($s->id, $first, true));
        $list = [];
        foreach ([...self::naming($own, $table), ...self::naming($statements, $table)] as $statement) {
            if (self::reading($statement) !== null) {
                $list[$statement->id] ??= ['id' => $statement->id, 'executions' => $statement->executions];
            }
        }

        return array_slice(array_values($list), 0, self::MOST);
    }

    /** The part that reads; null where values were not kept. */
    public static function reading(StatementUse $statement): ?string
    {
        try {
            return Reading::hasHiddenValues($statement->sql) ? null : Reading::of($statement->sql, Dialect::MariaDb);
        } catch (SyntaxError) {
            return null;
        }
    }

    /** Why a statement cannot be measured, as a sentence; empty where it can. */
    public static function obstacle(StatementUse $statement): string
    {
        if (self::reading($statement) !== null) {
            return '';
        }

        return Reading::hasHiddenValues($statement->sql)
            ? 'No run of it was kept with its values.'
            : 'It only writes, and nothing is written to measure something.';
    }
}
