<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Telemetry\Store\Sums;
use Fulcrion\Core\Statements\Comparison;
use Fulcrion\Core\Statements\StatementChange;
use Fulcrion\Core\Time\Window;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Two windows of one cluster, statement by statement.
 */
final readonly class WindowComparison
{
    public function __construct(private Sums $sums, private Origins $origins)
    {
    }

    /**
     * @return array{changes: list<StatementChange>, before: float, after: float} loads are mean executions in flight
     */
    public function of(StatementScope $scope, Window $before): array
    {
        $origins = $scope->filter->byOrigin() ? $this->origins->ids($scope->filter) : null;
        $read = function (Window $window) use ($scope, $origins): array {
            $out = [];
            foreach (
                $this->sums->perStatement($scope->cluster->id, $window, ['executions', 'duration_us', 'load_us'], $origins) as $id => $sums
            ) {
                $out[$id] = ['executions' => $sums['executions'], 'durationUs' => $sums['duration_us'], 'loadUs' => $sums['load_us']];
            }

            return $out;
        };
        $changes = Comparison::of($read($before), $before->seconds(), $read($scope->window), $scope->window->seconds());

        return [
            'changes' => $changes,
            'before' => array_sum(array_map(static fn (StatementChange $change): float => $change->loadBefore, $changes)),
            'after' => array_sum(array_map(static fn (StatementChange $change): float => $change->loadAfter, $changes)),
        ];
    }

    /**
     * @param  list<StatementChange>  $changes
     * @return array<int, stdClass> id => id, fingerprint, text
     */
    public function texts(array $changes): array
    {
        return DB::table('statements')
            ->whereIn('id', array_map(static fn (StatementChange $change): int|string => $change->statement, $changes))
            ->get(['id', 'fingerprint', DB::raw('LEFT(text, 400) AS text')])
            ->keyBy('id')
            ->all();
    }
}
