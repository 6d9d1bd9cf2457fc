<?php

declare(strict_types=1);

namespace App\Statements\Application;

use Illuminate\Support\Facades\DB;

/**
 * Who and where from, as filters offer it.
 */
final class Origins
{
    public const COLUMNS = ['database' => 'database_name', 'user' => 'user_name', 'application' => 'application'];

    /**
     * @return list<int>
     */
    public function ids(OriginFilter $filter): array
    {
        $query = DB::table('origins');
        foreach (self::COLUMNS as $name => $column) {
            if ($filter->{$name} !== '') {
                $query->where($column, $filter->{$name} === '(none)' ? '' : $filter->{$name});
            }
        }

        return array_values($query->pluck('id')->map(static fn (mixed $id): int => (int) $id)->all());
    }

    /**
     * @return array<string, list<string>> database, user, application => values seen on the cluster in the window's days
     */
    public function choices(StatementScope $scope): array
    {
        $from = $scope->window->from - ($scope->window->from % 3600);
        $ids = DB::table('load_by_origin_hour')
            ->where('cluster_id', $scope->cluster->id)
            ->where('bucket_at', '>=', $from)
            ->where('bucket_at', '<', $scope->window->to)
            ->distinct()
            ->pluck('origin_id')
            ->all();
        $choices = [];
        $rows = DB::table('origins')->whereIn('id', $ids)->get(array_values(self::COLUMNS));
        foreach (self::COLUMNS as $name => $column) {
            $values = $rows
                ->pluck($column)
                ->unique()
                ->map(static fn (string $value): string => $value === '' ? '(none)' : $value)
                ->sort()
                ->values()
                ->all();
            $choices[$name] = array_slice($values, 0, 300);
        }

        return $choices;
    }
}
