<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Metrics\Store\PointStore;
use App\Metrics\Store\SeriesBook;
use App\Metrics\Store\Span;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Readings;
use Illuminate\Support\Facades\DB;

/**
 * What servers count, among all other metrics: each measure a series of a host that is called like the cluster.
 */
final readonly class StateStore implements MetricStore
{
    private const PREFIX = 'mariadb.';

    /** What is so much at a moment; all else grows. */
    private const GAUGES = [
        'threads_connected', 'threads_running', 'innodb_row_lock_current_waits', 'innodb_buffer_pool_pages_dirty',
        'innodb_buffer_pool_pages_total', 'innodb_history_list_length', 'replication_lag_s',
    ];

    /** Longer windows are read by the minute, and those of weeks by the hour. */
    private const BY_MINUTE = 6 * 3_600;

    private const BY_HOUR = 5 * 86_400;

    public function __construct(private PointStore $points, private SeriesBook $series)
    {
    }

    public function keep(int $clusterId, int $at, array $values): void
    {
        $metrics = [];
        foreach ($values as $name => $value) {
            $metrics[] = new Metric(self::PREFIX.$name, '1', (float) $value, [], ! in_array($name, self::GAUGES, true));
        }
        $this->points->take($clusterId, self::host($clusterId), $at * 1_000, $metrics);
    }

    public function readings(int $clusterId, array $measures, int $from, int $to, int $patience): array
    {
        $series = $this->series->of($clusterId, self::host($clusterId),
            array_map(static fn (string $one): string => self::PREFIX.$one, $measures));
        $span = match (true) {
            $to - $from > self::BY_HOUR => Span::Hour,
            $to - $from > self::BY_MINUTE => Span::Minute,
            default => null,
        };
        $patience += $span->value ?? 0;
        $points = $this->points->spanned($series, $from - $patience, $to + $patience, $span);
        $all = [];
        foreach ($series as $one) {
            $all[substr($one->name, strlen(self::PREFIX))] = PointStore::readings($points[$one->id] ?? null, $patience);
        }
        $none = new Readings([], $patience);

        return array_replace(array_fill_keys($measures, $none), $all);
    }

    private static function host(int $clusterId): string
    {
        return (string) DB::table('clusters')->where('id', $clusterId)->value('slug');
    }
}
