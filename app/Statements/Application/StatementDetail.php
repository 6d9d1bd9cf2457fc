<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Telemetry\Store\SampleSeal;
use App\Telemetry\Store\Sums;
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Telemetry\Fact;
use Fulcrion\Core\Time\Window;
use Illuminate\Contracts\Encryption\Encrypter;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Everything known of one statement over one window.
 */
final readonly class StatementDetail
{
    public function __construct(private Sums $sums, private Origins $origins, private Encrypter $encrypter)
    {
    }

    /**
     * @param  stdClass  $statement a row of the statements known, with "facts" where it is known of the cluster
     * @return array{row: StatementRow, sketch: LatencySketch}|null null when it did not run in the window
     */
    public function facts(stdClass $statement, StatementScope $scope): ?array
    {
        $clusterId = $scope->cluster->id;
        $origins = $scope->filter->byOrigin() ? $this->origins->ids($scope->filter) : null;
        $sums = $this->sums->perStatement($clusterId, $scope->window, Sums::all(), $origins, [$statement->id])[$statement->id] ?? null;
        if ($sums === null) {
            return null;
        }
        $sketch = $this->sums->sketches($clusterId, $scope->window, [$statement->id], $origins)[$statement->id] ?? LatencySketch::empty();
        $before =
            $this->sums->perStatement($clusterId, $scope->window->before(), ['executions', 'duration_us'], $origins, [$statement->id])[
                $statement->id
            ] ?? null;
        [$p50, $p95, $p99] = $sketch->quantiles([0.5, 0.95, 0.99], $sums['max_us']);

        return [
            'sketch' => $sketch,
            'row' => new StatementRow(
                $statement->id,
                $statement->fingerprint,
                $statement->kind,
                $statement->text,
                $sums,
                (int) ($statement->facts ?? Fact::DURATIONS),
                (int) $statement->first_us,
                false,
                new Percentiles($p50, $p95, $p99, $sketch->count()),
                new LoadBefore(
                    $before['executions'] ?? 0,
                    ($before['executions'] ?? 0) > 0 ? $before['duration_us'] / $before['executions'] : null,
                ),
                (float) $sums['load_us'],
            ),
        ];
    }

    /**
     * Mean latency and count over time.
     *
     * @return array{step: int, times: list<int>, meanUs: list<float|null>, executions: list<int>}
     */
    public function series(int $statementId, StatementScope $scope, Window $window): array
    {
        $origins = $scope->filter->byOrigin() ? $this->origins->ids($scope->filter) : null;
        $step = LoadSeries::stepOf($scope);
        $times = $window->intervals($step);
        $index = array_flip($times);
        $mean = array_fill(0, count($times), null);
        $executions = array_fill(0, count($times), 0);
        $rows =
            $origins === []
                ? []
                : LoadSeries::parts(
                    $window,
                    $step,
                    static fn (string $level, string $within): string => "SELECT bucket_at, executions, duration_us
            FROM load_{$level} WHERE cluster_id = {$scope->cluster->id} AND statement_id = {$statementId} AND {$within}".
                        Sums::in('origin_id', $origins),
                    'SUM(executions) AS executions, SUM(duration_us) AS duration_us',
                );
        foreach ($rows as $row) {
            $i = $index[(int) $row->at] ?? null;
            if ($i !== null && (int) $row->executions > 0) {
                $executions[$i] = (int) $row->executions;
                $mean[$i] = (int) $row->duration_us / (int) $row->executions;
            }
        }

        return ['step' => $step, 'times' => $times, 'meanUs' => array_values($mean), 'executions' => array_values($executions)];
    }

    /**
     * Who runs it and from where.
     *
     * @return list<stdClass> database_name, user_name, application, client_host, executions, duration_us, load_us, errors
     */
    public function origins(int $statementId, StatementScope $scope): array
    {
        $union = [];
        foreach (\Fulcrion\Core\Statements\WindowCover::of($scope->window) as $part) {
            $union[] = 'SELECT origin_id, executions, duration_us, load_us, errors + cancelled + timed_out AS errors FROM '
                ."load_{$part['level']}
                WHERE cluster_id = {$scope->cluster->id} AND statement_id = {$statementId} AND bucket_at >= {$part['from']} AND "
                    ."bucket_at < {$part['to']}";
        }

        return array_values(DB::select(
            'SELECT o.database_name, o.user_name, o.application, o.client_host, SUM(u.executions) AS executions, SUM(u.duration_us) AS
            duration_us, SUM(u.load_us) AS load_us, SUM(u.errors) AS errors
            FROM ('.
                implode(' UNION ALL ', $union).
                ') u JOIN origins o ON o.id = u.origin_id
            GROUP BY o.database_name, o.user_name, o.application, o.client_host ORDER BY load_us DESC LIMIT 100',
        ));
    }

    /**
     * Executions by weekday (1 Monday) and hour of the person's zone.
     *
     * @return array<int, array<int, int>>
     */
    public function week(int $statementId, StatementScope $scope): array
    {
        $week = array_fill(1, 7, array_fill(0, 24, 0));
        $from = $scope->window->from - ($scope->window->from % 3600);
        $rows = DB::select(
            'SELECT bucket_at, SUM(executions) AS executions FROM load_hour WHERE cluster_id = ? AND statement_id = ? AND bucket_at >= '
                .'? AND bucket_at < ? GROUP BY bucket_at',
            [$scope->cluster->id, $statementId, $from, $scope->window->to],
        );
        foreach ($rows as $row) {
            $at = (new \DateTimeImmutable('@'.$row->bucket_at))->setTimezone($scope->zone);
            $week[(int) $at->format('N')][(int) $at->format('G')] += (int) $row->executions;
        }

        return $week;
    }

    /**
     * @return list<stdClass> severity, text, occurrences, last_at in seconds
     */
    public function messages(int $statementId, StatementScope $scope): array
    {
        $from = $scope->window->from - ($scope->window->from % 3600);

        return array_values(DB::select(
            'SELECT severity, text, SUM(occurrences) AS occurrences, MAX(bucket_at) AS last_at FROM messages
            WHERE cluster_id = ? AND statement_id = ? AND bucket_at >= ? AND bucket_at < ?
            GROUP BY severity, digest, text ORDER BY occurrences DESC LIMIT 50',
            [$scope->cluster->id, $statementId, $from, $scope->window->to],
        ));
    }

    /**
     * The slowest samples of the window first, then fair ones.
     *
     * @return array{samples: list<array<string, mixed>>, kept: int, hours: int}
     */
    public function samples(int $statementId, StatementScope $scope, int $limit = 12): array
    {
        $from = $scope->window->from - ($scope->window->from % 3600);
        $where = [$scope->cluster->id, $statementId, $from, $scope->window->to];
        $counts = DB::selectOne(
            'SELECT COUNT(*) AS hours, COALESCE(SUM(kept), 0) AS kept FROM samples WHERE cluster_id = ? AND statement_id = ? AND '
                .'hour_at >= ? AND hour_at < ?',
            $where,
        );
        $samples = [];
        foreach (
            DB::select(
                'SELECT sealed FROM samples WHERE cluster_id = ? AND statement_id = ? AND hour_at >= ? AND hour_at < ? ORDER BY '
                    .'slowest_us DESC LIMIT '.
                    $limit,
                $where,
            ) as $row
        ) {
            foreach (SampleSeal::open($this->encrypter, $row->sealed) as $sample) {
                $at = (int) $sample['started_at_us'] / 1e6;
                if ($at >= $scope->window->from && $at < $scope->window->to) {
                    $samples[] = $sample;
                }
            }
        }
        usort($samples, static fn (array $a, array $b): int => $b['duration_us'] <=> $a['duration_us']);
        $slow = array_slice($samples, 0, intdiv($limit, 2));
        $rest = array_slice($samples, intdiv($limit, 2));
        usort($rest, static fn (array $a, array $b): int => $a['lot'] <=> $b['lot']);

        return [
            'samples' => [...$slow, ...array_slice($rest, 0, $limit - count($slow))],
            'kept' => (int) $counts->kept,
            'hours' => (int) $counts->hours,
        ];
    }
}
