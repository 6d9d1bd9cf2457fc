<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
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
        $used = [];
        $fold = new UsageFold($scope, $days, [UsageAxis::field($field)], self::sums($scope));
        foreach (DB::select($fold->named()) as $row) {
            $name = (string) $row->by0 === '' ? $field->none() : (string) $row->by0;
            $used[$name] = new Used((int) $row->executions, (int) $row->{$scope->measure->value});
        }

        return $used;
    }

    /**
     * Of some statements only, whatever else there is.
     *
     * @param  list<string>  $fingerprints
     * @return array<string, Used> by fingerprint
     */
    public function ofStatements(array $fingerprints, UsageScope $scope, Days $days): array
    {
        [$names, $among] = self::statements($fingerprints);
        $axis = UsageAxis::field(UsageField::Statement);
        $used = [];
        foreach (DB::select((new UsageFold($scope, $days, [$axis], self::sums($scope), [$among]))->numbered()) as $row) {
            $used[(string) $names[$row->statement_id]] = new Used((int) $row->executions, (int) $row->{$scope->measure->value});
        }

        return $used;
    }

    /**
     * @param  list<string>  $fingerprints
     * @return array{array<int, string>, ForemostValues} fingerprint by the number of the statement
     */
    private static function statements(array $fingerprints): array
    {
        $names = DB::table('statements')->whereIn('fingerprint', $fingerprints)->pluck('fingerprint', 'id')
            ->map(static fn (mixed $one): string => (string) $one)->all();

        return [$names, new ForemostValues(UsageField::Statement, array_map(intval(...), array_keys($names)), [], count($names))];
    }

    /**
     * @param  list<string>  $fingerprints
     * @return array<int, array<string, int>> start of a day => fingerprint => amount
     */
    public function dailyOfStatements(array $fingerprints, UsageScope $scope, Days $days): array
    {
        [$names, $among] = self::statements($fingerprints);
        $daily = [];
        $axes = [UsageAxis::day(), UsageAxis::field(UsageField::Statement)];
        foreach (DB::select((new UsageFold($scope, $days, $axes, [$scope->measure->value], [$among]))->numbered()) as $row) {
            $daily[(int) $row->k0][$names[$row->statement_id]] = (int) $row->{$scope->measure->value};
        }

        return $daily;
    }

    /**
     * @return array<string, int> all of it, by measure
     */
    public function totals(UsageScope $scope, Days $days): array
    {
        $measures = array_map(static fn (UsageMeasure $measure): string => $measure->value, UsageMeasure::cases());

        return array_map(intval(...), (array) DB::selectOne((new UsageFold($scope, $days, [], $measures))->named()));
    }

    /**
     * @return list<array{int, int, Used}> number of the cluster, of the statement, and what it used there
     */
    public function perStatement(UsageScope $scope, Days $days): array
    {
        $axes = [UsageAxis::field(UsageField::Cluster), UsageAxis::field(UsageField::Statement)];

        return array_values(array_map(
            static fn (stdClass $row): array => [
                (int) $row->cluster_id, (int) $row->statement_id, new Used((int) $row->executions, (int) $row->{$scope->measure->value}),
            ],
            DB::select((new UsageFold($scope, $days, $axes, self::sums($scope)))->numbered()),
        ));
    }

    /**
     * Of people and statements only those that used most are named, since there may be very many.
     *
     * @param  array{int, int}  $most how many of them are named on the rows and on the columns
     * @param  string  $other what all others are called together
     * @return array{list<array{string, string, int}>, int} value on the rows, value on the columns, amount; and how many rows stand
     *     together
     */
    public function grid(UsageAxis $rows, UsageAxis $columns, UsageScope $scope, array $most, string $other): array
    {
        $axes = [$rows, $columns];
        $foremost = [];
        foreach ($rows->key === $columns->key ? [] : $axes as $i => $axis) {
            $found = ($axis->field?->isMany() ?? false) ? $this->most($axis, $scope, $most[$i]) : null;
            if ($found !== null && $found->all > $most[$i]) {
                $foremost[$i] = $found;
            }
        }
        $cells = $this->cells($axes, $scope, ...array_values($foremost));
        if ($foremost === []) {
            return [$cells, 0];
        }

        return [[...$cells, ...$this->rest($axes, $scope, $foremost, $cells, $other)], isset($foremost[0])
            ? $foremost[0]->all - $most[0] : 0];
    }

    /**
     * What the cells lack of the sums of each row and column.
     *
     * @param  array{UsageAxis, UsageAxis}  $axes
     * @param  non-empty-array<int, ForemostValues>  $foremost by axis
     * @param  list<array{string, string, int}>  $cells
     * @return list<array{string, string, int}>
     */
    private function rest(array $axes, UsageScope $scope, array $foremost, array $cells, string $other): array
    {
        $left = [[], []];
        foreach ($axes as $i => $axis) {
            // Where the other axis shows all it has, a row lacks nothing.
            $left[$i] = ! isset($foremost[1 - $i]) ? [] : ($foremost[$i]->amounts ?? $this->sumsBy($axis, $scope));
        }
        foreach ($cells as [$row, $column, $amount]) {
            foreach ([$row, $column] as $i => $value) {
                if (isset($left[$i][$value])) {
                    $left[$i][$value] -= $amount;
                }
            }
        }
        $rest = [];
        foreach ($left as $i => $amounts) {
            foreach ($amounts as $value => $amount) {
                $rest[] = $i === 0 ? [(string) $value, $other, $amount] : [$other, (string) $value, $amount];
            }
        }
        if (count($foremost) === 2) {
            // What is in neither a row nor a column that is shown.
            $said = array_sum(array_column([...$cells, ...$rest], 2));
            $rest[] = [$other, $other, $this->totals($scope, $scope->days)[$scope->measure->value] - $said];
        }

        return $rest;
    }

    /**
     * @return array<string, int> amount by value
     */
    public function sumsBy(UsageAxis $axis, UsageScope $scope): array
    {
        $sums = [];
        foreach ($this->cells([$axis], $scope) as [$value, , $amount]) {
            $sums[$value] = $amount;
        }

        return $sums;
    }

    /**
     * @param  non-empty-list<UsageAxis>  $axes two at most
     * @return list<array{string, string, int}>
     */
    private function cells(array $axes, UsageScope $scope, ForemostValues ...$among): array
    {
        return array_values(array_map(
            static fn (stdClass $row): array => [
                (string) ($row->by0 ?? ''), (string) ($row->by1 ?? ''), (int) $row->{$scope->measure->value},
            ],
            DB::select((new UsageFold($scope, $scope->days, $axes, [$scope->measure->value], array_values($among)))->named()),
        ));
    }

    private function most(UsageAxis $axis, UsageScope $scope, int $count): ForemostValues
    {
        assert($axis->field !== null);
        $measure = $scope->measure->value;
        $fold = new UsageFold($scope, $scope->days, [$axis], [$measure]);
        if ($axis->field === UsageField::Statement) {
            // What statements stand for is only read of those that are shown.
            $rows = DB::select("SELECT s.fingerprint AS by0, f.statement_id AS number, f.{$measure}, f.of FROM (SELECT statement_id, "
                ."{$measure}, COUNT(*) OVER () AS of FROM ({$fold->numbered()}) g ORDER BY {$measure} DESC, statement_id LIMIT {$count}) f "
                .'JOIN statements s ON s.id = f.statement_id');
        } else {
            $rows = DB::select("SELECT by0, {$measure}, COUNT(*) OVER () AS of FROM ({$fold->named()}) g ORDER BY {$measure} DESC, by0 "
                ."LIMIT {$count}");
        }
        $amounts = [];
        foreach ($rows as $row) {
            $amounts[(string) $row->by0] = (int) $row->{$measure};
        }
        $numbers = $axis->field === UsageField::Statement ? array_map(static fn (stdClass $row): int => (int) $row->number, $rows)
            : DB::table('origins AS o')->whereIn($axis->field->column(), array_map(strval(...), array_keys($amounts)))->pluck('id')->all();

        return new ForemostValues($axis->field, array_values(array_map(intval(...), $numbers)), $amounts, (int) ($rows[0]->of ?? 0));
    }

    /**
     * @return array<int, array<string, int>> start of a day => team, or value of another field => amount
     */
    public function daily(UsageScope $scope, Days $days, UsageField $field = UsageField::Team): array
    {
        $daily = [];
        $axes = [UsageAxis::day(), UsageAxis::field($field)];
        foreach (DB::select((new UsageFold($scope, $days, $axes, [$scope->measure->value]))->named()) as $row) {
            $daily[(int) $row->by0][(string) $row->by1] = (int) $row->{$scope->measure->value};
        }

        return $daily;
    }

    /**
     * @return list<string> executions, and the measure
     */
    private static function sums(UsageScope $scope): array
    {
        return array_values(array_unique([UsageMeasure::Executions->value, $scope->measure->value]));
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
}
