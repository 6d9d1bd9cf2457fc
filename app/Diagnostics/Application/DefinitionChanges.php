<?php

declare(strict_types=1);

namespace App\Diagnostics\Application;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Fulcrion\Core\Sql\Fingerprint;
use Fulcrion\Core\Sql\StatementKind;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\Status;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Definitions that were changed on a live server: what one looks for beside a plan that is another one since.
 */
final readonly class DefinitionChanges
{
    private const KEPT_DAYS = 60;

    /** Servers tell the start of their clocks to the second. */
    private const CLOCK_US = 2_000_000;

    /** Of one reading: what makes and drops tables all day long shall not fill the store. */
    private const MOST = 50;

    /**
     * @param  list<array{Execution, Fingerprint}>  $runs
     */
    public function keep(Cluster $cluster, array $runs): void
    {
        $rows = [];
        foreach ($runs as [$execution, $statement]) {
            if (
                $execution->outcome->status !== Status::Ok ||
                StatementKind::ofNormalised($statement->text) !== StatementKind::Definition ||
                preg_match('~^(CREATE|DROP) TEMPORARY\b~i', $statement->text) === 1
            ) {
                continue;
            }
            $rows[] = [
                'cluster_id' => $cluster->id,
                'at_us' => $execution->startedAtUs + $execution->durationUs,
                'user' => mb_strcut($execution->origin->user, 0, 130),
                'database_name' => mb_strcut($execution->origin->database, 0, 130),
                'text' => mb_strcut($statement->text, 0, 2000),
            ];
        }
        if ($rows !== []) {
            DB::table('definition_changes')->insert(array_slice($rows, -self::MOST));
        }
    }

    /**
     * @param  list<string>  $tables names of tables without their schema, one of which it has to name; empty for any
     * @param  string  $database where these are; empty where that is not known
     * @return list<stdClass> at_us, user, database_name, text; newest first
     */
    public function between(Cluster $cluster, int $fromUs, int $toUs, array $tables = [], string $database = ''): array
    {
        $rows = DB::table('definition_changes')
            ->where('cluster_id', $cluster->id)
            ->whereBetween('at_us', [$fromUs, $toUs + self::CLOCK_US])
            ->orderByDesc('at_us')
            ->limit(200)
            ->get()
            ->all();
        $named = static fn (stdClass $row): bool => $tables === [] || preg_match(
            '~\b('.implode('|', array_map(static fn (string $table): string => preg_quote($table, '~'), $tables)).')\b~i',
            $row->text,
        ) === 1;

        // Tables of the same name are in many schemas.
        $there = static fn (stdClass $row): bool => $database === '' || $row->database_name === $database ||
            stripos($row->text, "{$database}.") !== false;

        return array_values(array_filter($rows, static fn (stdClass $row): bool => $named($row) && $there($row)));
    }

    public function prune(): void
    {
        DB::table('definition_changes')->where('at_us', '<', Clock::microseconds() - self::KEPT_DAYS * 86_400_000_000)->delete();
    }
}
