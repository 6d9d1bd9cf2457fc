<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use App\Estate\Models\Cluster;
use App\Health\Application\HostsBeside;
use App\Metrics\Signals\HostMeasure;
use App\Metrics\Store\HostReadings;
use App\Metrics\Store\PointStore;
use Closure;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Time\Window;
use Illuminate\Support\Facades\DB;

/**
 * Four weeks of twelve hosts for one page, and a day of a thousand hosts beside each other; both read every minute.
 */
final class MetricsReadBench implements Measurement
{
    private const FEW = 12;

    private const DAYS = 28;

    private const MANY = 1_000;

    private const EVERY = 60;

    private const DAY = 86_400;

    /** Monday, 2 November 2026. */
    private const FROM = 1_793_577_600;

    private const TIMES = 20;

    private const PATIENCE = 700;

    private const SHORT = ['cpu.user', 'memory.used', 'disk.read', 'disk.write', 'disk.busy', 'network.in'];

    public function __construct(private readonly PointStore $points, private readonly HostReadings $readings)
    {
    }

    public function name(): string
    {
        return 'metrics-read';
    }

    public function run(Closure $say): iterable
    {
        Scratch::fresh();
        mt_srand(22);
        [$few, $many] = [$this->cluster('few'), $this->cluster('many')];
        $count = 0;
        for ($host = 0; $host < self::FEW; $host++) {
            $say("writing four weeks of host {$host} of ".self::FEW);
            $count += $this->write($few, $host, self::DAYS, 6);
        }
        for ($host = 0; $host < self::MANY; $host++) {
            if ($host % 50 === 0) {
                $say("writing a day of host {$host} of ".self::MANY);
            }
            $count += $this->write($many, $host, 1, 3);
        }
        yield BenchFigure::of('points kept', (float) $count, 'points');
        foreach (['metric_blocks', 'metric_days', 'metric_series'] as $table) {
            DB::statement("ANALYZE TABLE {$table}");
        }

        $say('reading');
        $to = self::FROM + self::DAYS * self::DAY;
        $values = 0;
        $page = $this->times(function () use ($few, $to, &$values): void {
            $values = 0;
            foreach ($this->readings->ofAll($few->id, self::SHORT, self::FROM, $to, self::PATIENCE, 6 * 3_600) as $readings) {
                foreach (self::SHORT as $name) {
                    $values += count(array_filter($name === 'memory.used' ? $readings[$name]->most(self::FROM, $to, 6 * 3_600)
                        : $readings[$name]->rates(self::FROM, $to, 6 * 3_600), static fn (?float $one): bool => $one !== null));
                }
            }
        });
        yield BenchFigure::of('28 days of 12 hosts x 6 metrics, middle', Spread::median($page), 'ms');
        yield BenchFigure::atMost('28 days of 12 hosts x 6 metrics, 95 of 100', Spread::quantile($page, 0.95), 150, 'ms');
        yield BenchFigure::atLeast('values of them found', (float) $values, self::FEW * 6 * self::DAYS * 4, 'values');

        $day = new Window(self::FROM, self::FROM + self::DAY);
        $found = 0;
        $beside = $this->times(function () use ($many, $day, &$found): void {
            $found = count(HostsBeside::of($many, HostMeasure::DiskTime, $day, self::FROM + self::DAY, $this->readings)->differences);
        });
        yield BenchFigure::of('a day of 1,000 hosts side by side, middle', Spread::median($beside), 'ms');
        yield BenchFigure::atMost('a day of 1,000 hosts side by side, 95 of 100', Spread::quantile($beside, 0.95), 500, 'ms');
        yield BenchFigure::atLeast('hosts of them found', (float) $found, self::MANY, 'hosts');

        // Beside what it would take without sums of hours and days.
        $began = hrtime(true);
        $this->readings->ofAll($few->id, self::SHORT, self::FROM, self::FROM + 2 * self::DAY, self::PATIENCE);
        yield BenchFigure::of('two days of the same by their points', (hrtime(true) - $began) / 1e6, 'ms');
    }

    private function cluster(string $slug): Cluster
    {
        return Cluster::query()->create([
            'slug' => $slug, 'name' => ucfirst($slug), 'role' => 'rehearsal', 'connector' => 'files', 'dialect' => Dialect::Ansi,
        ]);
    }

    /**
     * @return list<float> milliseconds
     */
    private function times(Closure $work): array
    {
        $work();
        $took = [];
        for ($i = 0; $i < self::TIMES; $i++) {
            $began = hrtime(true);
            $work();
            $took[] = (hrtime(true) - $began) / 1e6;
        }

        return $took;
    }

    private function write(Cluster $cluster, int $host, int $days, int $metrics): int
    {
        $disk = ['system.device' => 'sda'];
        $all = [
            new Metric('system.disk.io_time', 's', 0.0, $disk, true),
            new Metric('system.disk.io', 'By', 0.0, $disk + ['disk.io.direction' => 'read'], true),
            new Metric('system.disk.io', 'By', 0.0, $disk + ['disk.io.direction' => 'write'], true),
            new Metric('system.cpu.time', 's', 0.0, ['cpu.mode' => 'user'], true),
            new Metric('system.network.io', 'By', 0.0, ['network.io.direction' => 'receive'], true),
            new Metric('system.memory.usage', 'By', 0.0, ['system.memory.state' => 'used']),
        ];
        $series = [];
        foreach (array_slice($all, 0, $metrics) as $metric) {
            $times = $values = [];
            $value = 0.0;
            for ($at = self::FROM; $at < self::FROM + $days * self::DAY; $at += self::EVERY) {
                $value = match ($metric->unit) {
                    's' => round($value + mt_rand(0, 2_000) / 1_000, 3),
                    default => $metric->isCounter ? $value + mt_rand(0, 3_000_000_000) : 16e9 + mt_rand(0, 4_000) * 1_048_576.0,
                };
                $times[] = $at * 1_000;
                $values[] = $value;
            }
            $series[] = [$metric, new Points($times, $values)];
        }

        return $this->points->keep($cluster->id, sprintf('host-%04d', $host), $series);
    }
}
