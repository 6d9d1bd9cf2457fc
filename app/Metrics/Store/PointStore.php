<?php

declare(strict_types=1);

namespace App\Metrics\Store;

use App\Metrics\Places\PlaceError;
use App\Metrics\Places\Places;
use App\Platform\Support\Clock;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Metrics\Readings;
use Fulcrion\Core\Metrics\Summary;
use Illuminate\Database\Connection;
use Illuminate\Database\Query\Builder;
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

    public function __construct(private SeriesBook $series, private KeptHours $hours, private Places $places)
    {
    }

    /**
     * @param  list<Metric>  $metrics
     * @return int how many values were taken; those that are known already are not
     */
    public function take(int $clusterId, string $host, int $atMs, array $metrics): int
    {
        return $this->takeValues($clusterId, $host, $atMs, $this->series->values($clusterId, $host, $metrics));
    }

    /**
     * @param  array<int, float>  $values by number of the series, all of one host
     * @return int how many were taken; those that are known already are not
     */
    public function takeValues(int $clusterId, string $host, int $atMs, array $values): int
    {
        if ($values === []) {
            return 0;
        }
        $frame = ['cluster_id' => $clusterId, 'host' => $host, 'at_ms' => $atMs];
        $at = $this->places->of($clusterId);
        if ($at->table('metric_frames')->insertOrIgnore($frame + ['body' => self::packed($values)]) === 1) {
            return count($values);
        }

        // Somebody else told of the same host at the same moment: what they did not is added.
        return $at->transaction(static function () use ($at, $frame, $values): int {
            $known = self::unpacked((string) $at->table('metric_frames')->where($frame)->lockForUpdate()->value('body'));
            $new = array_diff_key($values, $known);
            if ($new !== []) {
                $at->table('metric_frames')->where($frame)->update(['body' => self::packed($known + $new)]);
            }

            return count($new);
        }, 3);
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
        $sealed = $this->sealAll(DB::connection(), $before);
        foreach ($this->places->away() as $clusterId) {
            try {
                $sealed += $this->sealAll($this->places->of($clusterId), $before, $clusterId);
            } catch (PlaceError $error) {
                // The next time; what is kept here does not wait for it.
                Log::warning($error->getMessage());
            }
        }

        return $sealed;
    }

    /**
     * Puts hours that end by then together where their cluster keeps them, wherever their readings are now.
     *
     * @return int points that were
     */
    public function sealAll(Connection $at, int $before, ?int $clusterId = null): int
    {
        $before -= $before % self::HOUR;
        $hours = $at->table('metric_frames')->where('at_ms', '<', $before * 1_000)
            ->when($clusterId !== null, static fn (Builder $query) => $query->where('cluster_id', $clusterId))->distinct()
            ->orderBy('cluster_id')->orderBy('host')->orderBy('hour')->selectRaw('cluster_id, host, at_ms DIV 3600000 AS hour')->get();
        $sealed = 0;
        foreach ($hours as $one) {
            $sealed += $this->sealHour($at, (int) $one->cluster_id, (string) $one->host, (int) $one->hour * self::HOUR);
        }

        return $sealed;
    }

    private function sealHour(Connection $at, int $clusterId, string $host, int $hour): int
    {
        return $at->transaction(function () use ($at, $clusterId, $host, $hour): int {
            $within = [$hour * 1_000, ($hour + self::HOUR) * 1_000 - 1];
            $times = $values = [];
            $sql = 'SELECT at_ms, body FROM metric_frames WHERE cluster_id = ? AND host = ? AND at_ms BETWEEN ? AND ? ORDER BY at_ms '
                .'FOR UPDATE';
            foreach ($at->select($sql, [$clusterId, $host, ...$within]) as $row) {
                foreach (self::unpacked((string) $row->body) as $series => $value) {
                    $times[$series][] = (int) $row->at_ms;
                    $values[$series][] = $value;
                }
            }
            $points = [];
            foreach ($times as $series => $some) {
                $points[$series] = [$hour => new Points($some, $values[$series])];
            }
            $this->hours->write($clusterId, $points);
            $at->table('metric_frames')->where('cluster_id', $clusterId)->where('host', $host)->whereBetween('at_ms', $within)->delete();

            return array_sum(array_map(count(...), $times));
        }, 3);
    }

    /**
     * Points of hours that are over, from whoever kept them until now.
     *
     * @param  list<array{Metric, Points}>  $series a metric, whose value is not looked at, with its points
     * @return int how many were kept
     */
    public function keep(int $clusterId, string $host, array $series): int
    {
        $points = [];
        $kept = 0;
        foreach ($this->series->numbers($clusterId, $host, array_column($series, 0)) as $place => $number) {
            if ($number !== null) {
                $points[$number] = $series[$place][1]->byHour();
                $kept += $series[$place][1]->count();
            }
        }
        $this->hours->write($clusterId, $points);

        return $kept;
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
        $parts = $this->hours->points($series[0]->clusterId, self::numbers($series), $from, $to);
        foreach ($this->fresh($series, $from, $to) as $number => $some) {
            $parts[$number] = $some + ($parts[$number] ?? []);
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
     * The same by whole minutes, hours or days that touch the span; what is not put together yet is computed.
     *
     * @param  list<KeptSeries>  $series of one cluster
     * @return array<int, array<int, Summary>> by start in seconds, by number
     */
    public function summaries(array $series, int $from, int $to, Span $span): array
    {
        if ($series === []) {
            return [];
        }
        $all = $this->hours->summaries($series[0]->clusterId, self::numbers($series), $from, $to, $span);
        foreach ($this->fresh($series, $from - $from % $span->value, $to) as $number => $some) {
            foreach (Summary::over(new Points(array_keys($some), array_values($some)), $span->value * 1_000) as $atMs => $summary) {
                $at = intdiv($atMs, 1_000);
                $all[$number][$at] = isset($all[$number][$at]) ? $all[$number][$at]->then($summary) : $summary;
            }
            ksort($all[$number]);
        }

        return $all;
    }

    /**
     * @param  list<KeptSeries>  $series
     * @return list<int>
     */
    private static function numbers(array $series): array
    {
        return array_map(static fn (KeptSeries $one): int => $one->id, $series);
    }

    /**
     * What is not put together yet.
     *
     * @param  list<KeptSeries>  $series
     * @return array<int, array<int, float>> value by milliseconds, ascending, by number
     */
    private function fresh(array $series, int $from, int $to): array
    {
        $asked = array_flip(self::numbers($series));
        $fresh = [];
        foreach ($this->frames($series, $from, $to) as $frame) {
            foreach (array_intersect_key(self::unpacked((string) $frame->body), $asked) as $number => $value) {
                $fresh[$number][(int) $frame->at_ms] = $value;
            }
        }

        return $fresh;
    }

    /**
     * @param  list<KeptSeries>  $series
     * @return list<stdClass>
     */
    private function frames(array $series, int $from, int $to): array
    {
        $hosts = array_values(array_unique(array_map(static fn (KeptSeries $one): string => $one->host, $series)));

        return array_values($this->places->of($series[0]->clusterId)->table('metric_frames')
            ->where('cluster_id', $series[0]->clusterId)->whereIn('host', $hosts)
            ->where('at_ms', '>=', $from * 1_000)->where('at_ms', '<', $to * 1_000)->orderBy('at_ms')->get(['at_ms', 'body'])->all());
    }

    /**
     * Points of a span in seconds, or where a span of time is given one of each such, as bySpan() tells.
     *
     * @param  list<KeptSeries>  $series of one cluster
     * @return array<int, Points> by number
     */
    public function spanned(array $series, int $from, int $to, ?Span $span): array
    {
        if ($span === null) {
            return $this->points($series, $from, $to);
        }
        $summaries = $this->summaries($series, $from, $to, $span);
        $points = [];
        foreach ($series as $one) {
            $some = self::bySpan($summaries[$one->id] ?? [], $one->isCounter, $span);
            if ($some !== null) {
                $points[$one->id] = $some;
            }
        }

        return $points;
    }

    /**
     * Of each span the last value of what only grows, at its end, and the highest of what goes up and down.
     *
     * @param  array<int, Summary>  $summaries by start in seconds
     */
    public static function bySpan(array $summaries, bool $isCounter, Span $span): ?Points
    {
        $times = $values = [];
        foreach ($summaries as $at => $summary) {
            $times[] = $isCounter ? ($at + $span->value) * 1_000 - 1 : $at * 1_000;
            $values[] = $isCounter ? $summary->last : $summary->high;
        }

        return $times === [] ? null : new Points($times, $values);
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
