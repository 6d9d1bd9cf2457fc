<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Telemetry\Store\Sums;
use Fulcrion\Core\Statements\Concentration;
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Telemetry\Fact;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Core\Time\Window;
use Illuminate\Support\Facades\DB;

/**
 * The statements of a window, worst first.
 */
final readonly class Ranking
{
    /** Sort key => label, what it measures. */
    public const ORDERS = [
        'time' => 'total time',
        'mean' => 'mean',
        'p95' => 'p95',
        'p99' => 'p99',
        'executions' => 'executions',
        'ratio' => 'examined per returned',
        'bytes' => 'bytes scanned',
        'spill' => 'bytes spilled',
        'lock' => 'lock time',
        'errors' => 'errors',
        'warnings' => 'warnings',
    ];

    public const PAGE = 50;

    /** A mean counts as slower from this factor on, with at least three runs on either side. */
    public const SLOWER = 1.2;

    private const NEEDS = [
        'time' => [],
        'mean' => ['executions', 'duration_us'],
        'executions' => ['executions'],
        'p95' => ['max_us'],
        'p99' => ['max_us'],
        'ratio' => ['rows_examined', 'rows_returned'],
        'bytes' => ['bytes_scanned'],
        'spill' => ['bytes_spilled'],
        'lock' => ['lock_us'],
        'errors' => ['errors', 'cancelled', 'timed_out'],
        'warnings' => ['warnings'],
        'no_index' => ['no_index'],
        'full_scan' => ['full_scans'],
        'tmp_disk' => ['tmp_disk'],
        'multi_pass' => ['multi_pass'],
        'new' => [],
        'slower' => ['executions', 'duration_us'],
    ];

    public function __construct(private Sums $sums, private Origins $origins)
    {
    }

    public function of(StatementScope $scope, string $order, int $page = 1, int $perPage = self::PAGE, bool $ascending = false): RankingPage
    {
        $clusterId = $scope->cluster->id;
        $filter = $scope->filter;
        $origins = $filter->byOrigin() ? $this->origins->ids($filter) : null;
        $columns = ['executions', 'load_us', ...self::NEEDS[$order]];
        foreach ($filter->flags as $flag) {
            $columns = [...$columns, ...self::NEEDS[$flag]];
        }
        $all = $this->sums->perStatement($clusterId, $scope->window, array_values(array_unique($columns)), $origins);
        $totalLoadUs = array_sum(array_column($all, 'load_us'));
        $totalExecutions = $this->sums->executions($clusterId, $scope->window, $origins);
        $statementsInAll = count($all);
        $shown = $this->restrict($all, $scope, $origins);
        $measures = $this->measures($shown, $order, $scope, $origins, $page * $perPage);
        if ($ascending) {
            asort($measures);
        } else {
            arsort($measures);
        }
        $ids = array_slice(array_keys($measures), ($page - 1) * $perPage, $perPage);

        return new RankingPage(
            $this->rows($ids, $scope, $origins, $measures),
            count($shown),
            $statementsInAll,
            $totalLoadUs,
            $totalExecutions,
            Concentration::of(array_column($all, 'load_us'), 0.7),
            (float) ($measures === [] ? 0 : max($measures)),
            $order,
            $page,
        );
    }

    /**
     * @param  array<int, array<string, int>>  $all
     * @param  list<int>|null  $origins
     * @return array<int, array<string, int>>
     */
    private function restrict(array $all, StatementScope $scope, ?array $origins): array
    {
        $filter = $scope->filter;
        if ($filter->words !== '' || $filter->kind !== '') {
            $query = DB::table('statements')->select('id');
            foreach (Parts::split('~\s+~', $filter->words) as $word) {
                $query->where('text', 'like', '%'.addcslashes($word, '%_\\').'%');
            }
            if ($filter->kind !== '') {
                $query->where('kind', $filter->kind);
            }
            $all = array_intersect_key($all, array_flip($query->pluck('id')->all()));
        }
        foreach ($filter->flags as $flag) {
            $all = match ($flag) {
                'no_index' => array_filter($all, static fn (array $sums): bool => $sums['no_index'] > 0),
                'full_scan' => array_filter($all, static fn (array $sums): bool => $sums['full_scans'] > 0),
                'tmp_disk' => array_filter($all, static fn (array $sums): bool => $sums['tmp_disk'] > 0),
                'multi_pass' => array_filter($all, static fn (array $sums): bool => $sums['multi_pass'] > 0),
                'errors' => array_filter(
                    $all,
                    static fn (array $sums): bool => $sums['errors'] + $sums['cancelled'] + $sums['timed_out'] > 0,
                ),
                'warnings' => array_filter($all, static fn (array $sums): bool => $sums['warnings'] > 0),
                'new' => ! self::watchedBefore($scope)
                    ? []
                    : array_intersect_key(
                        $all,
                        array_flip(
                            DB::table('statement_presence')
                                ->where('cluster_id', $scope->cluster->id)
                                ->where('first_us', '>=', $scope->window->from * 1_000_000)
                                ->pluck('statement_id')
                                ->all(),
                        ),
                    ),
                'slower' => $this->slower($all, $scope->cluster->id, $scope->window->before(), $origins),
            };
        }

        return $all;
    }

    /**
     * @param  array<int, array<string, int>>  $all
     * @param  list<int>|null  $origins
     * @return array<int, array<string, int>>
     */
    private function slower(array $all, int $clusterId, Window $before, ?array $origins): array
    {
        $old = $this->sums->perStatement($clusterId, $before, ['executions', 'duration_us'], $origins);

        return array_filter(
            $all,
            static function (array $sums, int $id) use ($old): bool {
                $then = $old[$id] ?? ['executions' => 0, 'duration_us' => 0];

                return $then['executions'] >= 3 &&
                    $sums['executions'] >= 3 &&
                    (self::SLOWER * $then['duration_us']) / $then['executions'] <= $sums['duration_us'] / $sums['executions'];
            },
            ARRAY_FILTER_USE_BOTH,
        );
    }

    /**
     * @param  array<int, array<string, int>>  $shown
     * @param  list<int>|null  $origins
     * @return array<int, float|int> statement => what it is ranked by
     */
    private function measures(array $shown, string $order, StatementScope $scope, ?array $origins, int $wanted): array
    {
        if ($order === 'p95' || $order === 'p99') {
            return $this->quantiles($shown, $order === 'p95' ? 0.95 : 0.99, $scope, $origins, $wanted);
        }

        return array_map(
            static fn (array $sums): float|int => match ($order) {
                'mean' => $sums['duration_us'] / max(1, $sums['executions']),
                'executions' => $sums['executions'],
                'ratio' => $sums['rows_examined'] / max(1, $sums['rows_returned']),
                'bytes' => $sums['bytes_scanned'],
                'spill' => $sums['bytes_spilled'],
                'lock' => $sums['lock_us'],
                'errors' => $sums['errors'] + $sums['cancelled'] + $sums['timed_out'],
                'warnings' => $sums['warnings'],
                default => $sums['load_us'],
            },
            $shown,
        );
    }

    /**
     * No quantile exceeds the longest execution: sketches are read from the top of that bound until the bound falls
     * below the last wanted place.
     *
     * @param  array<int, array<string, int>>  $shown
     * @param  list<int>|null  $origins
     * @return array<int, float|int>
     */
    private function quantiles(array $shown, float $q, StatementScope $scope, ?array $origins, int $wanted): array
    {
        $bounds = array_map(static fn (array $sums): int => (int) ($sums['max_us'] * (1 + LatencySketch::RELATIVE_ERROR)), $shown);
        arsort($bounds);
        $found = [];
        $place = -1;
        // A first helping, and the rest at once if that does not settle it.
        foreach (array_filter([array_slice($bounds, 0, 200, true), array_slice($bounds, 200, null, true)]) as $chunk) {
            foreach ($this->sums->sketches($scope->cluster->id, $scope->window, array_keys($chunk), $origins) as $id => $sketch) {
                $found[$id] = $sketch->quantile($q, $shown[$id]['max_us']) ?? 0;
            }
            arsort($found);
            $place = array_values($found)[$wanted - 1] ?? -1;
            if ($place >= end($chunk)) {
                break;
            }
        }
        foreach ($bounds as $id => $bound) {
            // Below the wanted places only the bound is known; it keeps the order of what is never shown.
            $found[$id] ??= $place < 0 ? 0 : min($bound, $place);
        }

        return $found;
    }

    /**
     * @param  list<int>  $ids
     * @param  list<int>|null  $origins
     * @param  array<int, float|int>  $measures
     * @return list<StatementRow>
     */
    private function rows(array $ids, StatementScope $scope, ?array $origins, array $measures): array
    {
        if ($ids === []) {
            return [];
        }
        $clusterId = $scope->cluster->id;
        $sums = $this->sums->perStatement($clusterId, $scope->window, Sums::all(), $origins, $ids);
        $sketches = $this->sums->sketches($clusterId, $scope->window, $ids, $origins);
        $before = $this->sums->perStatement($clusterId, $scope->window->before(), ['executions', 'duration_us'], $origins, $ids);
        $statements = DB::table('statements')
            ->whereIn('id', $ids)
            ->get(['id', 'fingerprint', 'kind', DB::raw('LEFT(text, 600) AS text')])
            ->keyBy('id')
            ->all();
        $presence = DB::table('statement_presence')
            ->where('cluster_id', $clusterId)
            ->whereIn('statement_id', $ids)
            ->get()
            ->keyBy('statement_id');
        $watchedBefore = self::watchedBefore($scope);
        $rows = [];
        foreach ($ids as $id) {
            $statement = $statements[$id];
            $sketch = $sketches[$id] ?? LatencySketch::empty();
            [$p50, $p95, $p99] = $sketch->quantiles([0.5, 0.95, 0.99], $sums[$id]['max_us']);
            $rows[] = new StatementRow(
                $id,
                $statement->fingerprint,
                $statement->kind,
                $statement->text,
                $sums[$id],
                (int) ($presence[$id]->facts ?? Fact::DURATIONS),
                (int) ($presence[$id]->first_us ?? 0),
                $watchedBefore && (int) ($presence[$id]->first_us ?? 0) >= $scope->window->from * 1_000_000,
                new Percentiles($p50, $p95, $p99, $sketch->count()),
                new LoadBefore(
                    $before[$id]['executions'] ?? 0,
                    ($before[$id]['executions'] ?? 0) > 0 ? $before[$id]['duration_us'] / $before[$id]['executions'] : null,
                ),
                (float) $measures[$id],
            );
        }

        return $rows;
    }

    /** On a cluster whose history begins inside the window everything would be new. */
    private static function watchedBefore(StatementScope $scope): bool
    {
        return DB::table('statement_presence')
            ->where('cluster_id', $scope->cluster->id)
            ->where('first_us', '<', $scope->window->from * 1_000_000)
            ->exists();
    }
}
