<?php

declare(strict_types=1);

namespace App\Health\Metrics;

use App\Platform\Support\Clock;
use Fulcrion\Core\Metrics\DamagedBlock;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\PointBlock;
use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Metrics\Readings;
use Fulcrion\Core\Metrics\Summary;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Log;
use stdClass;

/**
 * Values over time. A reading is one row as it comes, all values of a host together; when its hour is over, the hour of each series is one
 * row of compressed points with what the hour was like. What comes late is put into the hour it belongs to.
 */
final readonly class PointStore
{
    private const HOUR = 3_600;

    /** An hour is put together so long after it is over: what comes later costs more. */
    private const PATIENCE_SECONDS = 120;

    private const AT_ONCE = 500;

    public function __construct(private SeriesBook $series)
    {
    }

    /**
     * @param  list<Metric>  $metrics
     * @return int how many values were taken; none where this reading is known already
     */
    public function take(int $clusterId, string $host, int $atMs, array $metrics): int
    {
        $values = $this->series->values($clusterId, $host, $metrics);
        if ($values === []) {
            return 0;
        }
        $taken = DB::table('metric_frames')->insertOrIgnore([
            'cluster_id' => $clusterId, 'host' => $host, 'at_ms' => $atMs, 'body' => self::packed($values),
        ]);

        return $taken === 1 ? count($values) : 0;
    }

    /**
     * Puts hours that are over together.
     *
     * @param  int|null  $before hours that end by then; null for those that are over for long enough
     * @return int points that were
     */
    public function seal(?int $before = null): int
    {
        $before ??= Clock::seconds() - self::PATIENCE_SECONDS;
        $before -= $before % self::HOUR;
        $sealed = 0;
        $hours = DB::select('SELECT DISTINCT cluster_id, host, at_ms DIV 3600000 AS hour FROM metric_frames WHERE at_ms < ? '
            .'ORDER BY cluster_id, host, hour', [$before * 1_000]);
        foreach ($hours as $one) {
            $sealed += $this->sealHour((int) $one->cluster_id, (string) $one->host, (int) $one->hour * self::HOUR);
        }

        return $sealed;
    }

    private function sealHour(int $clusterId, string $host, int $hour): int
    {
        return DB::transaction(function () use ($clusterId, $host, $hour): int {
            $within = [$hour * 1_000, ($hour + self::HOUR) * 1_000 - 1];
            $times = $values = [];
            $sql = 'SELECT at_ms, body FROM metric_frames WHERE cluster_id = ? AND host = ? AND at_ms BETWEEN ? AND ? ORDER BY at_ms '
                .'FOR UPDATE';
            foreach (DB::select($sql, [$clusterId, $host, ...$within]) as $row) {
                foreach (self::unpacked((string) $row->body) as $series => $value) {
                    $times[$series][] = (int) $row->at_ms;
                    $values[$series][] = $value;
                }
            }
            $points = [];
            foreach ($times as $series => $some) {
                $points[$series] = new Points($some, $values[$series]);
            }
            $this->write($hour, $points);
            DB::table('metric_frames')->where('cluster_id', $clusterId)->where('host', $host)->whereBetween('at_ms', $within)->delete();

            return array_sum(array_map(static fn (Points $one): int => $one->count(), $points));
        }, 3);
    }

    /**
     * @param  array<int, Points>  $points by series
     */
    private function write(int $hour, array $points): void
    {
        foreach (array_chunk($points, self::AT_ONCE, true) as $some) {
            $known = DB::table('metric_blocks')->where('hour_at', $hour)->whereIn('series_id', array_keys($some))
                ->pluck('body', 'series_id');
            $rows = [];
            foreach ($some as $series => $new) {
                // What came late, or again, stands beside what is there.
                $all = isset($known[$series]) ? self::decoded((string) $known[$series], $series, $hour)->with($new) : $new;
                $summary = array_values(Summary::over($all, self::HOUR * 1_000))[0];
                $rows[] = [
                    'series_id' => $series, 'hour_at' => $hour, 'low' => $summary->low, 'high' => $summary->high, 'sum' => $summary->sum,
                    'last' => $summary->last, 'points' => $summary->count, 'body' => PointBlock::encode($all),
                ];
            }
            DB::table('metric_blocks')->upsert($rows, ['series_id', 'hour_at'], ['low', 'high', 'sum', 'last', 'points', 'body']);
        }
    }

    /**
     * @param  list<KeptSeries>  $series of one cluster
     * @return array<int, Points> by number, of a span in seconds; those without any are not there
     */
    public function points(array $series, int $from, int $to): array
    {
        if ($series === []) {
            return [];
        }
        $numbers = array_map(static fn (KeptSeries $one): int => $one->id, $series);
        $parts = [];
        $hours = DB::table('metric_blocks')->whereIn('series_id', $numbers)
            ->whereBetween('hour_at', [$from - $from % self::HOUR, $to - 1])->orderBy('hour_at')->get(['series_id', 'hour_at', 'body']);
        foreach ($hours as $row) {
            $one = self::decoded((string) $row->body, (int) $row->series_id, (int) $row->hour_at);
            foreach ($one->timesMs as $place => $atMs) {
                $parts[(int) $row->series_id][$atMs] = $one->values[$place];
            }
        }
        foreach ($this->frames($series, $from, $to) as $frame) {
            $values = self::unpacked((string) $frame->body);
            foreach ($numbers as $number) {
                if (isset($values[$number])) {
                    $parts[$number][(int) $frame->at_ms] = $values[$number];
                }
            }
        }
        $points = [];
        foreach ($parts as $number => $some) {
            ksort($some);
            $within = (new Points(array_keys($some), array_values($some)))->between($from * 1_000, $to * 1_000);
            if ($within->count() > 0) {
                $points[$number] = $within;
            }
        }

        return $points;
    }

    /**
     * The same by whole hours, which are read without their points.
     *
     * @param  list<KeptSeries>  $series of one cluster
     * @return array<int, array<int, Summary>> by start of the hour in seconds, by number; hours that are not put together are computed
     */
    public function hours(array $series, int $from, int $to): array
    {
        $hours = [];
        $numbers = array_map(static fn (KeptSeries $one): int => $one->id, $series);
        foreach (DB::table('metric_blocks')->whereIn('series_id', $numbers)->where('hour_at', '>=', $from)->where('hour_at', '<', $to)
            ->orderBy('hour_at')->get(['series_id', 'hour_at', 'low', 'high', 'sum', 'last', 'points']) as $row) {
            $hours[(int) $row->series_id][(int) $row->hour_at] = new Summary(
                (float) $row->low, (float) $row->high, (float) $row->sum, (float) $row->last, (int) $row->points,
            );
        }
        $fresh = [];
        foreach ($this->frames($series, $from, $to) as $frame) {
            foreach (array_intersect_key(self::unpacked((string) $frame->body), array_flip($numbers)) as $number => $value) {
                $fresh[$number][] = [(int) $frame->at_ms, $value];
            }
        }
        foreach ($fresh as $number => $some) {
            foreach (Summary::over(Points::of($some), self::HOUR * 1_000) as $atMs => $summary) {
                $hour = intdiv($atMs, 1_000);
                $hours[$number][$hour] = isset($hours[$number][$hour]) ? $hours[$number][$hour]->then($summary) : $summary;
            }
        }

        return $hours;
    }

    /**
     * @param  list<KeptSeries>  $series
     * @return list<stdClass>
     */
    private function frames(array $series, int $from, int $to): array
    {
        if ($series === []) {
            return [];
        }
        $hosts = array_values(array_unique(array_map(static fn (KeptSeries $one): string => $one->host, $series)));

        return array_values(DB::table('metric_frames')->where('cluster_id', $series[0]->clusterId)->whereIn('host', $hosts)
            ->where('at_ms', '>=', $from * 1_000)->where('at_ms', '<', $to * 1_000)->orderBy('at_ms')->get(['at_ms', 'body'])->all());
    }

    /** For charts over time. */
    public static function readings(?Points $points, int $patience): Readings
    {
        $list = [];
        foreach ($points->timesMs ?? [] as $place => $atMs) {
            $list[] = [intdiv($atMs, 1_000), $points?->values[$place]];
        }

        return new Readings($list, $patience);
    }

    /** Ends what is older than the cluster keeps. */
    public function prune(int $clusterId, int $before): int
    {
        return DB::delete('DELETE b FROM metric_blocks b JOIN metric_series s ON s.id = b.series_id WHERE s.cluster_id = ? AND '
            .'b.hour_at < ?', [$clusterId, $before]);
    }

    private static function decoded(string $body, int $series, int $hour): Points
    {
        try {
            return PointBlock::decode($body);
        } catch (DamagedBlock $damage) {
            // One damaged hour is a gap, and says so; what is around it stays.
            Log::warning('An hour of a metric cannot be read', ['series' => $series, 'hour' => $hour, 'why' => $damage->getMessage()]);

            return new Points([], []);
        }
    }

    /**
     * @param  non-empty-array<int, float>  $values by number of the series
     */
    private static function packed(array $values): string
    {
        ksort($values);

        return (string) gzdeflate(pack('V', count($values)).pack('V*', ...array_keys($values)).pack('E*', ...array_values($values)), 6);
    }

    /**
     * @return array<int, float>
     */
    private static function unpacked(string $body): array
    {
        $plain = (string) @gzinflate($body);
        $count = unpack('V', $plain);
        $count = is_array($count) ? (int) $count[1] : 0;
        if ($count === 0 || strlen($plain) !== 4 + 12 * $count) {
            return [];
        }
        $numbers = unpack("V{$count}", $plain, 4);
        $values = unpack("E{$count}", $plain, 4 + 4 * $count);

        return is_array($numbers) && is_array($values) ? array_combine($numbers, $values) : [];
    }
}
