<?php

declare(strict_types=1);

namespace App\Metrics\Store;

use App\Metrics\Places\Places;
use Fulcrion\Core\Metrics\DamagedBlock;
use Fulcrion\Core\Metrics\PointBlock;
use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Metrics\Summary;
use Fulcrion\Core\Metrics\SummaryBlock;
use Illuminate\Database\Connection;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Log;
use stdClass;

/**
 * Hours that are over: an hour of a series is one row of compressed points, with what its minutes were like; a day is one row of what its
 * hours were like. Long windows read days, shorter ones minutes, short ones points.
 */
final readonly class KeptHours
{
    private const HOUR = 3_600;

    private const DAY = 86_400;

    private const MINUTE_MS = 60_000;

    /** An hour of fewer points is read by its points where its minutes are asked for. */
    private const MANY = 120;

    private const AT_ONCE = 500;

    private const OF_A_SPAN = ['low', 'high', 'sum', 'last', 'points'];

    public function __construct(private Places $places)
    {
    }

    /**
     * @param  array<int, array<int, Points>>  $points by hour in seconds, by series
     */
    public function write(int $clusterId, array $points): void
    {
        $at = $this->places->of($clusterId);
        $at->transaction(fn () => $this->writeAll($at, $points));
    }

    /**
     * @param  array<int, array<int, Points>>  $points
     */
    private function writeAll(Connection $at, array $points): void
    {
        $list = [];
        foreach ($points as $series => $hours) {
            foreach ($hours as $hour => $some) {
                $list[] = [$series, $hour, $some];
            }
        }
        foreach (array_chunk($list, self::AT_ONCE) as $some) {
            $this->writeHours($at, $some);
        }
        foreach (array_chunk(array_keys($points), self::AT_ONCE) as $series) {
            $days = [];
            foreach ($series as $number) {
                foreach (array_keys($points[$number]) as $hour) {
                    $days[$number][$hour - $hour % self::DAY] = true;
                }
            }
            $this->writeDays($at, $days);
        }
    }

    /**
     * @param  list<array{int, int, Points}>  $some series, hour and its points
     */
    private function writeHours(Connection $at, array $some): void
    {
        $known = [];
        foreach ($at->table('metric_blocks')->whereIn('series_id', array_unique(array_column($some, 0)))
            ->whereIn('hour_at', array_unique(array_column($some, 1)))->get(['series_id', 'hour_at', 'body']) as $row) {
            $known[(int) $row->series_id][(int) $row->hour_at] = (string) $row->body;
        }
        $rows = [];
        foreach ($some as [$series, $hour, $new]) {
            // What came late, or again, stands beside what is there.
            $all = isset($known[$series][$hour]) ? self::decoded($known[$series][$hour], $series, $hour)->with($new) : $new;
            $rows[] = ['series_id' => $series, 'hour_at' => $hour] + self::columns(array_values(Summary::over($all, self::HOUR * 1_000))[0])
                + [
                    'body' => PointBlock::encode($all),
                    'minutes' => $all->count() <= self::MANY ? null : SummaryBlock::encode(Summary::over($all, self::MINUTE_MS)),
                ];
        }
        $at->table('metric_blocks')->upsert($rows, ['series_id', 'hour_at'], [...self::OF_A_SPAN, 'body', 'minutes']);
    }

    /**
     * @param  array<int, array<int, true>>  $days that have other hours now, by series
     */
    private function writeDays(Connection $at, array $days): void
    {
        $all = array_merge(...array_map(array_keys(...), array_values($days)));
        if ($all === []) {
            return;
        }
        $hours = [];
        foreach ($at->table('metric_blocks')->whereIn('series_id', array_keys($days))->where('hour_at', '>=', min($all))
            ->where('hour_at', '<', max($all) + self::DAY)->orderBy('hour_at')->get(['series_id', 'hour_at', ...self::OF_A_SPAN]) as $row) {
            $hour = (int) $row->hour_at;
            if (isset($days[(int) $row->series_id][$hour - $hour % self::DAY])) {
                $hours[(int) $row->series_id][$hour - $hour % self::DAY][$hour] = self::summary($row);
            }
        }
        $rows = [];
        foreach ($hours as $series => $byDay) {
            foreach ($byDay as $day => $some) {
                $whole = null;
                foreach ($some as $one) {
                    $whole = $whole === null ? $one : $whole->then($one);
                }
                $rows[] = ['series_id' => $series, 'day_at' => $day] + self::columns($whole) + ['hours' => SummaryBlock::encode($some)];
            }
        }
        foreach (array_chunk($rows, self::AT_ONCE) as $chunk) {
            $at->table('metric_days')->upsert($chunk, ['series_id', 'day_at'], [...self::OF_A_SPAN, 'hours']);
        }
    }

    /**
     * @param  list<int>  $numbers of series
     * @return array<int, array<int, float>> value by milliseconds, by series, of all hours a span in seconds touches
     */
    public function points(int $clusterId, array $numbers, int $from, int $to): array
    {
        $points = [];
        foreach (self::blocks($this->places->of($clusterId), $numbers, $from, $to, ['body']) as $row) {
            $one = self::decoded((string) $row->body, (int) $row->series_id, (int) $row->hour_at);
            foreach ($one->timesMs as $place => $atMs) {
                $points[(int) $row->series_id][$atMs] = $one->values[$place];
            }
        }

        return $points;
    }

    /**
     * @param  list<int>  $numbers of series
     * @return array<int, array<int, Summary>> by start in seconds, by series, of spans that touch the one asked for
     */
    public function summaries(int $clusterId, array $numbers, int $from, int $to, Span $span): array
    {
        $at = $this->places->of($clusterId);

        return match ($span) {
            Span::Minute => self::minutes($at, $numbers, $from, $to),
            Span::Hour => self::hours($at, $numbers, $from, $to),
            Span::Day => self::days($at, $numbers, $from, $to),
        };
    }

    /**
     * @param  list<int>  $numbers
     * @return array<int, array<int, Summary>>
     */
    private static function minutes(Connection $at, array $numbers, int $from, int $to): array
    {
        $minutes = [];
        $first = $from - $from % 60;
        foreach (self::blocks($at, $numbers, $from, $to, ['minutes', DB::raw('IF(minutes IS NULL, body, NULL) AS body')]) as $row) {
            $some = $row->minutes === null
                ? Summary::over(self::decoded((string) $row->body, (int) $row->series_id, (int) $row->hour_at), self::MINUTE_MS)
                : self::summarized((string) $row->minutes, (int) $row->series_id, (int) $row->hour_at);
            foreach ($some as $atMs => $summary) {
                $at = intdiv($atMs, 1_000);
                if ($at >= $first && $at < $to) {
                    $minutes[(int) $row->series_id][$at] = $summary;
                }
            }
        }

        return $minutes;
    }

    /**
     * @param  list<int>  $numbers
     * @return array<int, array<int, Summary>>
     */
    private static function hours(Connection $at, array $numbers, int $from, int $to): array
    {
        $hours = [];
        $first = $from - $from % self::HOUR;
        foreach ($at->table('metric_days')->whereIn('series_id', $numbers)->whereBetween('day_at', [$from - $from % self::DAY, $to - 1])
            ->orderBy('day_at')->get(['series_id', 'day_at', 'hours']) as $row) {
            $series = (int) $row->series_id;
            $some = self::summarized((string) $row->hours, $series, (int) $row->day_at);
            if ($row->day_at < $first || $row->day_at + self::DAY > $to) {
                $some = array_filter($some, static fn (int $hour): bool => $hour >= $first && $hour < $to, ARRAY_FILTER_USE_KEY);
            }
            $hours[$series] = ($hours[$series] ?? []) + $some;
        }

        return array_filter($hours, static fn (array $some): bool => $some !== []);
    }

    /**
     * @param  list<int>  $numbers
     * @return array<int, array<int, Summary>>
     */
    private static function days(Connection $at, array $numbers, int $from, int $to): array
    {
        $days = [];
        foreach ($at->table('metric_days')->whereIn('series_id', $numbers)->whereBetween('day_at', [$from - $from % self::DAY, $to - 1])
            ->orderBy('day_at')->get(['series_id', 'day_at', ...self::OF_A_SPAN]) as $row) {
            $days[(int) $row->series_id][(int) $row->day_at] = self::summary($row);
        }

        return $days;
    }

    /**
     * @param  list<int>  $numbers
     * @param  list<mixed>  $columns
     * @return iterable<stdClass>
     */
    private static function blocks(Connection $at, array $numbers, int $from, int $to, array $columns): iterable
    {
        return $at->table('metric_blocks')->whereIn('series_id', $numbers)->whereBetween('hour_at', [$from - $from % self::HOUR, $to - 1])
            ->orderBy('hour_at')->get(['series_id', 'hour_at', ...$columns]);
    }

    /**
     * Hours of a series, wherever they are.
     *
     * @param  non-empty-list<int>  $hours in seconds
     * @return array<int, Points> by hour
     */
    public function at(Connection $at, int $series, array $hours): array
    {
        $points = [];
        foreach (array_chunk($hours, self::AT_ONCE) as $some) {
            $rows = $at->table('metric_blocks')->where('series_id', $series)->whereIn('hour_at', $some)->get(['hour_at', 'body']);
            foreach ($rows as $row) {
                $points[(int) $row->hour_at] = self::decoded((string) $row->body, $series, (int) $row->hour_at);
            }
        }

        return $points;
    }

    /** Ends what is older than the cluster keeps. */
    public function prune(int $clusterId, int $before): int
    {
        $at = $this->places->of($clusterId);
        $ended = 0;
        $ends = ['metric_blocks' => ['hour_at', $before], 'metric_days' => ['day_at', $before - self::DAY]];
        foreach (DB::table('metric_series')->where('cluster_id', $clusterId)->pluck('id')->chunk(self::AT_ONCE) as $series) {
            foreach ($ends as $table => [$column, $first]) {
                $ended += $at->table($table)->whereIn('series_id', $series)->where($column, '<', $first)->delete();
            }
        }

        return $ended;
    }

    /**
     * @return array<string, float|int>
     */
    private static function columns(Summary $one): array
    {
        return ['low' => $one->low, 'high' => $one->high, 'sum' => $one->sum, 'last' => $one->last, 'points' => $one->count];
    }

    private static function summary(stdClass $row): Summary
    {
        return new Summary((float) $row->low, (float) $row->high, (float) $row->sum, (float) $row->last, (int) $row->points);
    }

    /**
     * @return array<int, Summary>
     */
    private static function summarized(string $body, int $series, int $at): array
    {
        try {
            return SummaryBlock::decode($body);
        } catch (DamagedBlock $damage) {
            self::damaged($damage, $series, $at);

            return [];
        }
    }

    private static function decoded(string $body, int $series, int $hour): Points
    {
        try {
            return PointBlock::decode($body);
        } catch (DamagedBlock $damage) {
            self::damaged($damage, $series, $hour);

            return new Points([], []);
        }
    }

    /** What is damaged is a gap, and says so; what is around it stays. */
    private static function damaged(DamagedBlock $damage, int $series, int $at): void
    {
        Log::warning('Points of a metric cannot be read', ['series' => $series, 'at' => $at, 'why' => $damage->getMessage()]);
    }
}
