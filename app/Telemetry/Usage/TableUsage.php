<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TableShares;
use Fulcrion\Core\Usage\Used;
use Illuminate\Support\Facades\DB;

/**
 * Use by table: each statement's use shared among the tables it names. All of it together is the use of all statements.
 */
final readonly class TableUsage
{
    /** What names no table. */
    public const NONE = '(no table)';

    public function __construct(private UsageReader $reader)
    {
    }

    /**
     * @return array<string, Used> by path; executions are those that used the table
     */
    public function of(UsageScope $scope, Days $days): array
    {
        $tables = [];
        $known = [];
        $sums = [];
        foreach ($this->reader->perStatement($scope, $days) as [$cluster, $statement, $used]) {
            $known[$cluster] ??= self::weights($cluster);
            $weights = $known[$cluster][$statement] ?? [self::NONE => 1];
            foreach (TableShares::split($used->amount, $weights) as $path => $amount) {
                $sums[$path] = ($sums[$path] ?? 0) + $amount;
                $tables[$path] = ($tables[$path] ?? 0) + $used->executions;
            }
        }
        $use = [];
        foreach ($sums as $path => $amount) {
            $use[(string) $path] = new Used($tables[$path], $amount);
        }

        return $use;
    }

    /**
     * @return array<string, non-empty-array<string, int>> weight by table, by fingerprint
     */
    public static function weightsByStatement(int $cluster): array
    {
        $weights = self::weights($cluster);
        $named = [];
        foreach (DB::table('statements')->whereIn('id', array_keys($weights))->pluck('fingerprint', 'id') as $id => $fingerprint) {
            $named[(string) $fingerprint] = $weights[(int) $id];
        }

        return $named;
    }

    /**
     * @return array<int, non-empty-array<string, int>> weight by table, by statement
     */
    private static function weights(int $cluster): array
    {
        $weights = [];
        foreach (DB::table('statement_tables')->where('cluster_id', $cluster)->orderBy('path')->cursor() as $row) {
            $weights[(int) $row->statement_id][$row->path === '' ? self::NONE : (string) $row->path] = (int) $row->weight;
        }

        return $weights;
    }
}
