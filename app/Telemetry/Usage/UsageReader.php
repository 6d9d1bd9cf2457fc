<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\Used;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Sums of usage facts.
 */
final class UsageReader
{
    /**
     * @return array<string, Used> by value of the field
     */
    public function by(UsageField $field, UsageScope $scope, Days $days): array
    {
        [$source, $joins, $conditions, $bindings] = self::conditions($scope, $days, [$field], true);
        $used = [];
        foreach (
            DB::select(
                "SELECT {$field->column()} AS subject, SUM(f.executions) AS executions, SUM(f.{$scope->measure->value}) AS amount FROM "
                    ."{$source} f {$joins} WHERE {$conditions} GROUP BY subject",
                $bindings,
            ) as $row
        ) {
            $name = (string) $row->subject === '' ? $field->none() : (string) $row->subject;
            $used[$name] = new Used((int) $row->executions, (int) $row->amount);
        }

        return $used;
    }

    /**
     * @return list<array{int, int, Used}> number of the cluster, of the statement, and what it used there
     */
    public function perStatement(UsageScope $scope, Days $days): array
    {
        [, $joins, $conditions, $bindings] = self::conditions($scope, $days, [], false);
        // Both tables that leave something out lack one of the two.
        $source = UsageSums::source([...self::fields($scope, []), UsageField::Statement], $days, true);

        return array_values(array_map(
            static fn (stdClass $row): array => [
                (int) $row->cluster_id, (int) $row->statement_id, new Used((int) $row->executions, (int) $row->amount),
            ],
            DB::select(
                "SELECT f.cluster_id, f.statement_id, SUM(f.executions) AS executions, SUM(f.{$scope->measure->value}) AS amount FROM "
                    ."{$source} f {$joins} WHERE {$conditions} GROUP BY f.cluster_id, f.statement_id",
                $bindings,
            ),
        ));
    }

    /**
     * @return list<array{string, string, int}> value on the rows, value on the columns, amount
     */
    public function grid(UsageAxis $rows, UsageAxis $columns, UsageScope $scope): array
    {
        $fields = array_values(array_filter([$rows->field, $columns->field], static fn (?UsageField $field): bool => $field !== null));
        $byMonth = ! $rows->isFinerThanMonth() && ! $columns->isFinerThanMonth();
        [$source, $joins, $conditions, $bindings] = self::conditions($scope, $scope->days, $fields, $byMonth);

        return array_values(array_map(
            static fn (stdClass $row): array => [(string) $row->across, (string) $row->down, (int) $row->amount],
            DB::select(
                "SELECT {$rows->column()} AS across, {$columns->column()} AS down, SUM(f.{$scope->measure->value}) AS amount FROM "
                    ."{$source} f {$joins} WHERE {$conditions} GROUP BY across, down",
                $bindings,
            ),
        ));
    }

    /**
     * @return array<int, array<string, int>> start of a day => team => amount
     */
    public function daily(UsageScope $scope, Days $days): array
    {
        [$source, $joins, $conditions, $bindings] = self::conditions($scope, $days, [UsageField::Team], false);
        $daily = [];
        foreach (
            DB::select(
                "SELECT f.day_at, t.name, SUM(f.{$scope->measure->value}) AS amount FROM {$source} f {$joins} WHERE {$conditions} "
                    .'GROUP BY f.day_at, t.name',
                $bindings,
            ) as $row
        ) {
            $daily[(int) $row->day_at][(string) $row->name] = (int) $row->amount;
        }

        return $daily;
    }

    /**
     * @param  list<string>  $fingerprints
     * @return array<string, string> beginning of each text
     */
    public function texts(array $fingerprints): array
    {
        return DB::table('statements')
            ->whereIn('fingerprint', $fingerprints)
            ->pluck(DB::raw('LEFT(text, 400)'), 'fingerprint')
            ->map(static fn (mixed $text): string => (string) $text)
            ->all();
    }

    /** The first day there are facts of; null where there are none. */
    public function first(): ?int
    {
        $first = DB::table('usage_days')->min('day_at');

        return $first === null ? null : (int) $first;
    }

    /**
     * Days of which something was corrected since they were closed.
     *
     * @return list<stdClass> day_at, name of the cluster, corrected_at
     */
    public function corrections(Days $days): array
    {
        return array_values(
            DB::table('usage_days')
                ->join('clusters', 'clusters.id', '=', 'usage_days.cluster_id')
                ->whereNotNull('corrected_at')
                ->where('day_at', '>=', $days->from)
                ->where('day_at', '<', $days->to)
                ->orderByDesc('day_at')
                ->get(['day_at', 'name', 'corrected_at'])
                ->all(),
        );
    }

    /**
     * @param  list<UsageField>  $fields
     * @return list<UsageField> those and what the scope filters by
     */
    private static function fields(UsageScope $scope, array $fields): array
    {
        return [
            ...$fields,
            ...$scope->teams === null ? [] : [UsageField::Team],
            ...array_map(UsageField::from(...), array_keys($scope->only)),
        ];
    }

    /**
     * @param  list<UsageField>  $fields joined in any case
     * @param  bool  $byMonth whether days of one month need not be told apart
     * @return array{string, string, string, list<int|string>} where from, joins, conditions and what stands in them
     */
    private static function conditions(UsageScope $scope, Days $days, array $fields, bool $byMonth): array
    {
        $conditions = ['f.day_at >= ?', 'f.day_at < ?'];
        $bindings = [$days->from, $days->to];
        $joins = array_map(static fn (UsageField $field): string => $field->join(), $fields);
        if ($scope->cluster !== null) {
            $conditions[] = 'f.cluster_id = ?';
            $bindings[] = $scope->cluster->id;
        }
        if ($scope->teams !== null) {
            // Whoever is limited to no team sees no team.
            $joins[] = UsageField::Team->join();
            $conditions[] = $scope->teams === [] ? '1 = 0' : 't.name IN ('.implode(', ', array_fill(0, count($scope->teams), '?')).')';
            array_push($bindings, ...$scope->teams);
        }
        foreach ($scope->only as $name => $value) {
            $field = UsageField::from($name);
            $joins[] = $field->join();
            $conditions[] = "{$field->column()} = ?";
            $bindings[] = $value;
        }

        return [
            UsageSums::source(self::fields($scope, $fields), $days, $byMonth),
            implode(' ', array_unique($joins)),
            implode(' AND ', $conditions),
            $bindings,
        ];
    }
}
