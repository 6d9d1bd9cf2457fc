<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Metrics\Store\HostReadings;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\SeriesBook;
use App\Metrics\Store\Span;
use Fulcrion\Core\Metrics\Metric;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\TestCase;

/**
 * The same values as plain rows, summed up by MariaDB itself, say the same as the store does.
 */
#[Group('today')]
final class MetricOracleTest extends TestCase
{
    private const NOW = 1_795_392_000;

    private const FROM = self::NOW - 30 * 3_600;

    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        $this->cluster = $this->cluster();
        DB::statement('CREATE OR REPLACE TABLE oracle_points (host VARCHAR(20) NOT NULL, name VARCHAR(60) NOT NULL, '
            .'at INT UNSIGNED NOT NULL, value DOUBLE NOT NULL, PRIMARY KEY (host, name, at))');
        $this->write();
    }

    protected function tearDown(): void
    {
        DB::statement('DROP TABLE IF EXISTS oracle_points');
        Carbon::setTestNow();
        parent::tearDown();
    }

    /** Three hosts with a gauge and a counter that now and then begins again, readings at odd seconds, some missing, some out of order. */
    private function write(): void
    {
        $random = new Randomizer(new Mt19937(8));
        $readings = [];
        foreach (['fern-01', 'fern-02', 'fern-03'] as $host) {
            $counter = 0.0;
            for ($at = self::FROM; $at < self::NOW - 60; $at += $random->getInt(20, 110)) {
                if ($random->getInt(0, 400) === 0) {
                    $at += $random->getInt(300, 9_000);
                    $counter = 0.0;
                }
                $counter += $random->getInt(0, 1_000_000);
                $readings[] = [$host, min($at, self::NOW - 61), $random->getInt(-10_000, 10_000) / 16, $counter];
            }
        }
        // The last of a second stays, as moments are told by it here.
        $byMoment = [];
        foreach ($readings as [$host, $at, $gauge, $counter]) {
            $byMoment["{$host} {$at}"] = [$host, $at, $gauge, $counter];
        }
        $rows = [];
        foreach ($random->shuffleArray($byMoment) as [$host, $at, $gauge, $counter]) {
            app(PointStore::class)->take($this->cluster->id, $host, $at * 1_000, [
                new Metric('system.memory.usage', 'By', $gauge, ['system.memory.state' => 'used']),
                new Metric('system.disk.io', 'By', $counter, ['disk.io.direction' => 'read'], true),
            ]);
            $rows[] = ['host' => $host, 'name' => 'system.memory.usage', 'at' => $at, 'value' => $gauge];
            $rows[] = ['host' => $host, 'name' => 'system.disk.io', 'at' => $at, 'value' => $counter];
        }
        foreach (array_chunk($rows, 2_000) as $some) {
            DB::table('oracle_points')->insert($some);
        }
    }

    public function test_minutes_hours_and_days_are_what_the_server_says_before_and_after_they_are_put_together(): void
    {
        $series = app(SeriesBook::class)->of($this->cluster->id);
        self::assertCount(6, $series);
        foreach ([false, true] as $isSealed) {
            if ($isSealed) {
                self::assertGreaterThan(5_000, app(PointStore::class)->seal());
            }
            foreach (Span::cases() as $span) {
                $found = app(PointStore::class)->summaries($series, self::FROM, self::NOW, $span);
                foreach ($series as $one) {
                    $rows = DB::select('SELECT at - at % ? AS start, MIN(value) AS low, MAX(value) AS high, SUM(value) AS total, '
                        ."COUNT(*) AS n, SUBSTRING_INDEX(GROUP_CONCAT(value ORDER BY at DESC SEPARATOR ' '), ' ', 1) AS last "
                        .'FROM oracle_points WHERE host = ? AND name = ? GROUP BY start ORDER BY start',
                        [$span->value, $one->host, $one->name]);
                    $its = $found[$one->id];
                    self::assertSame(array_map(static fn ($row): int => (int) $row->start, $rows), array_keys($its));
                    foreach ($rows as $row) {
                        $summary = $its[(int) $row->start];
                        self::assertSame([(float) $row->low, (float) $row->high, (int) $row->n, (float) $row->last],
                            [$summary->low, $summary->high, $summary->count, $summary->last]);
                        self::assertEqualsWithDelta((float) $row->total, $summary->sum, 1e-6 * max(1.0, abs((float) $row->total)));
                    }
                }
            }
        }
    }

    public function test_growth_between_readings_is_what_the_server_computes_with_its_window_functions(): void
    {
        app(PointStore::class)->seal();
        // Growth of each pair of readings that lie near enough, and where the counter did not begin again.
        $rows = DB::select('SELECT host, SUM(value - before_value) AS grown, SUM(at - before_at) AS seconds FROM (SELECT host, at, value, '
            .'LAG(value) '
            .'OVER (PARTITION BY host ORDER BY at) AS before_value, LAG(at) OVER (PARTITION BY host ORDER BY at) AS before_at FROM '
            ."oracle_points WHERE name = 'system.disk.io') pairs WHERE before_at IS NOT NULL AND at - before_at <= 120 "
            .'AND value >= before_value GROUP BY host ORDER BY host');
        $all = app(HostReadings::class)->ofAll($this->cluster->id, ['disk.read'], self::FROM, self::NOW, 120);
        self::assertCount(3, $rows);
        foreach ($rows as $row) {
            $rate = $all[(string) $row->host]['disk.read']->rates(self::FROM, self::NOW, self::NOW - self::FROM)[0];
            self::assertEqualsWithDelta((float) $row->grown / (float) $row->seconds, $rate, 1e-6 * (float) $rate);
            $gaps = DB::selectOne('SELECT COUNT(*) AS n FROM (SELECT at - LAG(at) OVER (ORDER BY at) AS apart FROM oracle_points '
                .'WHERE host = ? AND '
                ."name = 'system.disk.io') pairs WHERE apart > 120", [$row->host]);
            self::assertCount((int) ($gaps->n ?? -1), $all[(string) $row->host]['disk.read']->gaps(self::NOW - 61));
        }
    }
}
