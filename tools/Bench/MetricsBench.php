<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use App\Estate\Models\Cluster;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\SeriesBook;
use Closure;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Sql\Dialect;
use Illuminate\Support\Facades\DB;

/**
 * Readings of twelve hosts every ten seconds, taken and put together, beside the same values as plain rows.
 */
final class MetricsBench implements Measurement
{
    private const HOSTS = 12;

    private const SERIES = 100;

    /** Of readings, taken one by one. */
    private const SECONDS = 7_200;

    private const EVERY = 10;

    /** Monday, 2 November 2026. */
    private const FROM = 1_793_577_600;

    private const ROWS_AT_ONCE = 1_000;

    public function __construct(private readonly PointStore $points)
    {
    }

    public function name(): string
    {
        return 'metrics-write';
    }

    public function run(Closure $say): iterable
    {
        Scratch::fresh();
        mt_srand(22);
        $cluster = Cluster::query()->create([
            'slug' => 'bench', 'name' => 'Bench', 'role' => 'rehearsal', 'connector' => 'files', 'dialect' => Dialect::Ansi,
        ]);
        $readings = [];
        $say('drawing readings');
        for ($host = 0; $host < self::HOSTS; $host++) {
            $values = array_fill(0, self::SERIES, 50.0);
            for ($at = self::FROM; $at < self::FROM + self::SECONDS; $at += self::EVERY) {
                $readings[] = [sprintf('host-%02d', $host), $at, self::next($values, $at)];
            }
        }
        $count = count($readings) * self::SERIES;

        $say('taking '.$count.' values');
        $began = hrtime(true);
        foreach ($readings as [$host, $at, $metrics]) {
            $this->points->take($cluster->id, $host, $at * 1_000, $metrics);
        }
        $took = (hrtime(true) - $began) / 1e9;
        $say('putting hours together');
        $began = hrtime(true);
        $sealed = $this->points->seal(self::FROM + self::SECONDS);
        $kept = $took + (hrtime(true) - $began) / 1e9;
        yield BenchFigure::of('points', (float) $sealed, 'points');
        yield BenchFigure::of('taken in a second', $count / $took, 'points');
        yield BenchFigure::atLeast('taken and kept in a second', $count / $kept, 50_000, 'points');
        DB::statement('ANALYZE TABLE metric_blocks');
        $bytes = (float) DB::table('metric_blocks')->selectRaw('SUM(LENGTH(body) + 44) AS bytes')->value('bytes');
        yield BenchFigure::of('bytes a point in its row', $bytes / $count, 'B');
        $bytes += (float) DB::table('metric_blocks')->selectRaw('SUM(IFNULL(LENGTH(minutes), 0)) AS bytes')->value('bytes')
            + (float) DB::table('metric_days')->selectRaw('SUM(LENGTH(hours) + 48) AS bytes')->value('bytes');
        yield BenchFigure::atMost('bytes a point with sums of minutes, hours and days', $bytes / $count, 4, 'B');

        [$plainSeconds, $plainBytes] = $this->plain($readings, $say);
        yield BenchFigure::of('plain rows written in a second', $count / $plainSeconds, 'points');
        yield BenchFigure::of('bytes a point as plain rows', $plainBytes / $count, 'B');
        yield BenchFigure::of('size beside plain rows', $bytes / $plainBytes, 'times');

        $say('reading');
        $series = (new SeriesBook())->of($cluster->id, 'host-00');
        $began = hrtime(true);
        $read = $this->points->points(array_slice($series, 0, 6), self::FROM, self::FROM + self::SECONDS);
        yield BenchFigure::of('two hours of six series read in', (hrtime(true) - $began) / 1e6, 'ms');
        yield BenchFigure::atLeast('points of them found', (float) array_sum(array_map(static fn ($one): int => $one->count(), $read)),
            6 * self::SECONDS / self::EVERY, 'points');
    }

    /**
     * Shares that wander, counters that grow, and what stays as it is.
     *
     * @param  list<float>  $values
     * @return list<Metric>
     */
    private static function next(array &$values, int $at): array
    {
        $metrics = [];
        foreach ($values as $i => $value) {
            $values[$i] = match ($i % 4) {
                0 => round(min(100.0, max(0.0, $value + mt_rand(-200, 200) / 100)), 2),
                1, 2 => $value + mt_rand(0, 500_000),
                default => 16_000_000_000.0,
            };
            $metrics[] = new Metric("m{$i}", '1', $values[$i], [], $i % 4 === 1);
        }

        return $metrics;
    }

    /**
     * @param  list<array{string, int, list<Metric>}>  $readings
     * @return array{float, float} seconds, and bytes of the table
     */
    private function plain(array $readings, Closure $say): array
    {
        $say('the same as plain rows');
        DB::statement('CREATE TABLE plain_points (series_id INT UNSIGNED NOT NULL, at_ms BIGINT UNSIGNED NOT NULL, value DOUBLE NOT NULL, '
            .'PRIMARY KEY (series_id, at_ms))');
        $seconds = 0.0;
        $rows = [];
        $write = static function () use (&$rows, &$seconds): void {
            $began = hrtime(true);
            DB::insert('INSERT INTO plain_points VALUES '.implode(',', $rows));
            $seconds += (hrtime(true) - $began) / 1e9;
            $rows = [];
        };
        foreach ($readings as [$host, $at, $metrics]) {
            foreach ($metrics as $i => $metric) {
                $rows[] = '('.(1 + (int) substr($host, 5) * self::SERIES + $i).','.$at * 1_000 .",{$metric->value})";
            }
            if (count($rows) >= self::ROWS_AT_ONCE) {
                $write();
            }
        }
        if ($rows !== []) {
            $write();
        }
        DB::statement('ANALYZE TABLE plain_points');
        $size = DB::selectOne('SELECT DATA_LENGTH AS bytes FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE() AND '
            ."TABLE_NAME = 'plain_points'");

        return [$seconds, (float) ($size->bytes ?? 0)];
    }
}
