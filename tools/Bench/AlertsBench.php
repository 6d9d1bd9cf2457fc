<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use App\Alerts\Application\AlertJudge;
use App\Alerts\Application\AlertValues;
use App\Alerts\Application\Rehearsal;
use App\Alerts\Models\Alert;
use App\Estate\EstateCalendar;
use App\Estate\Models\Cluster;
use App\Metrics\Store\PointStore;
use Closure;
use Fulcrion\Core\Alerts\ThresholdSide;
use Fulcrion\Core\Alerts\Watched;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Statistics\Spread;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\DB;

/**
 * Two thousand alerts over a thousand hosts judged minute by minute, and one of them rehearsed on four weeks.
 */
final class AlertsBench implements Measurement
{
    private const ALERTS = 2_000;

    private const HOSTS = 1_000;

    private const FEW = 12;

    private const SOME = 200;

    /** Minutes that came before it is judged, and minutes it is judged in. */
    private const BEFORE = 70;

    private const MINUTES = 10;

    private const DAY = 86_400;

    /** Monday, 30 November 2026. */
    private const NOW = 1_795_996_800;

    /** Of each signal what few hosts reach. */
    private const LIMITS = [0.79, 0.9, 0.79, 0.68, 0.79, 1e5, 1e5, 10.0];

    private const SIGNALS = ['processors', 'disk-busy', 'disk-full', 'memory', 'load', 'disk', 'network', 'swap'];

    public function __construct(
        private readonly PointStore $points,
        private readonly AlertJudge $judge,
        private readonly EstateCalendar $calendar,
    ) {
    }

    public function name(): string
    {
        return 'alerts';
    }

    public function run(Closure $say): iterable
    {
        Scratch::fresh();
        mt_srand(23);
        try {
            yield from $this->judged($say);
            yield from $this->rehearsed($say);
        } finally {
            Carbon::setTestNow();
        }
    }

    /**
     * @return iterable<BenchFigure>
     */
    private function judged(Closure $say): iterable
    {
        $many = $this->cluster('many');
        $say('writing a thousand hosts');
        for ($minute = -self::BEFORE; $minute < 0; $minute++) {
            $this->minute($many->id, $minute);
        }
        $this->points->seal(self::NOW - 3_600);
        for ($i = 0; $i < self::ALERTS; $i++) {
            $this->alert($many->id, $i);
        }
        $took = [];
        $judged = self::ALERTS;
        for ($minute = 0; $minute < self::MINUTES; $minute++) {
            $say("judging minute {$minute} of ".self::MINUTES);
            $this->minute($many->id, $minute);
            $now = self::NOW + 60 * $minute + 30;
            Carbon::setTestNow(Carbon::createFromTimestamp($now));
            $began = hrtime(true);
            $judged = min($judged, $this->judge->judge($now));
            $took[] = (hrtime(true) - $began) / 1e9;
        }
        yield BenchFigure::atLeast('alerts judged each minute', (float) $judged, self::ALERTS, 'alerts');
        yield BenchFigure::of('conditions and hosts held against each other a minute', (float) self::ALERTS * self::HOSTS, 'pairs');
        yield BenchFigure::of('judged in, middle', Spread::median($took), 's');
        yield BenchFigure::atMost('judged in, longest', max(0.0, ...$took), 5, 's');
        yield BenchFigure::of('rings', (float) DB::table('alert_rings')->count(), 'rings');
        yield BenchFigure::of('incidents', (float) DB::table('incidents')->count(), 'incidents');
    }

    /**
     * @return iterable<BenchFigure>
     */
    private function rehearsed(Closure $say): iterable
    {
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        foreach ([['twelve hosts', self::FEW, 300], ['two hundred hosts', self::SOME, 3_600]] as [$name, $hosts, $every]) {
            $say("writing four weeks of {$name}");
            $cluster = $this->cluster("rehearsed-{$hosts}");
            for ($host = 0; $host < $hosts; $host++) {
                $this->history($cluster->id, $host, $every);
            }
            DB::table('incident_marks')->insert(['cluster_id' => $cluster->id, 'from_at' => self::NOW - 9 * self::DAY,
                'to_at' => self::NOW - 9 * self::DAY + 7_200, 'name' => 'one', 'made_by' => 'bench']);
            foreach ([Watched::Value, Watched::Usual] as $watched) {
                $alert = new Alert(['cluster_id' => $cluster->id, 'signal' => 'host:processors', 'watched' => $watched,
                    'side' => ThresholdSide::Above, 'threshold' => $watched === Watched::Value ? 0.8 : 1.5,
                    'calm' => $watched === Watched::Value ? 0.7 : 1.2, 'for_seconds' => 900, 'calm_seconds' => 900]);
                $say("rehearsing {$name}");
                $took = [];
                $values = 0;
                for ($i = 0; $i < 5; $i++) {
                    $began = hrtime(true);
                    $rehearsal = Rehearsal::of($cluster, $alert, app(AlertValues::class), $this->calendar, self::NOW);
                    $took[] = (hrtime(true) - $began) / 1e9;
                    $values = array_sum(array_map(count(...), $rehearsal->values));
                }
                $what = "28 days of {$name}, ".($watched === Watched::Value ? 'a value' : 'times the usual').', and the quietest threshold';
                yield BenchFigure::atMost($what, Spread::quantile($took, 0.95), 2, 's');
                yield BenchFigure::of('its values', (float) $values, 'values');
            }
        }
    }

    private function cluster(string $slug): Cluster
    {
        return Cluster::query()->create([
            'slug' => $slug, 'name' => ucfirst($slug), 'role' => 'rehearsal', 'connector' => 'files', 'dialect' => Dialect::Ansi,
        ]);
    }

    private function alert(int $clusterId, int $number): void
    {
        $watched = match (true) {
            $number % 20 === 7 => Watched::Silence, $number % 20 === 13 => Watched::Usual, default => Watched::Value,
        };
        $threshold = match ($watched) {
            Watched::Silence => 600.0, Watched::Usual => 3.0,
            // Some of them ring now and then, on one host or another.
            default => self::LIMITS[$number % count(self::SIGNALS)] * (1 + $number % 100 / 1_000),
        };
        Alert::query()->create([
            'cluster_id' => $clusterId, 'name' => "Alert {$number}", 'signal' => 'host:'.self::SIGNALS[$number % count(self::SIGNALS)],
            'watched' => $watched, 'side' => ThresholdSide::Above, 'threshold' => $threshold,
            'calm' => $watched === Watched::Value ? 0.8 * $threshold : $threshold, 'for_seconds' => 60 * ($number % 6),
            'calm_seconds' => 120,
            'share' => $number % 10 === 3 ? 0.3 : null, 'is_urgent' => false, 'is_on' => true, 'made_by' => 'bench',
            'judged_to' => self::NOW - 120,
        ]);
    }

    private function minute(int $clusterId, int $minute): void
    {
        $t = self::BEFORE + $minute;
        for ($host = 0; $host < self::HOSTS; $host++) {
            $work = 60.0 * $t * (0.3 + $host % 50 / 100);
            $metrics = [
                new Metric('system.cpu.time', 's', $work, ['cpu.mode' => 'user'], true),
                new Metric('system.cpu.time', 's', 60.0 * $t - $work, ['cpu.mode' => 'idle'], true),
                new Metric('system.cpu.load_average.1m', '1', mt_rand(0, 499) === 0 ? 0.9 : 0.1 * mt_rand(0, 6), [], false),
                new Metric('system.memory.usage', 'By', 1e9 * (5 + $host % 7), [], false),
                new Metric('system.memory.limit', 'By', 16e9, [], false),
                new Metric('system.paging.operations', '1', 0.0, ['system.paging.direction' => 'in'], true),
                new Metric('system.disk.io', 'By', 1e6 * $t, ['disk.io.direction' => 'read'], true),
                new Metric('system.disk.io_time', 's', 20.0 * $t, [], true),
                new Metric('system.network.io', 'By', 1e5 * $t, ['network.io.direction' => 'receive'], true),
                new Metric('system.filesystem.usage', 'By', 1e9 * (50 + $host % 30), [], false),
                new Metric('system.filesystem.limit', 'By', 100e9, [], false),
            ];
            $this->points->take($clusterId, "host-{$host}", (self::NOW + 60 * $minute) * 1_000, $metrics);
        }
    }

    private function history(int $clusterId, int $host, int $every): void
    {
        $user = $idle = [];
        $work = $rest = 0.0;
        for ($at = self::NOW - 28 * self::DAY; $at <= self::NOW; $at += $every) {
            $share = 0.3 + 0.25 * sin($at / self::DAY * 2 * M_PI) + mt_rand(0, 100) / 500;
            $share = abs($at - self::NOW + 9 * self::DAY) < 7_200 ? 0.95 : $share;
            $work += $every * $share;
            $rest += $every * (1 - $share);
            $user[] = [$at * 1_000, $work];
            $idle[] = [$at * 1_000, $rest];
        }
        $this->points->keep($clusterId, "host-{$host}", [
            [new Metric('system.cpu.time', 's', 0.0, ['cpu.mode' => 'user'], true), Points::of($user)],
            [new Metric('system.cpu.time', 's', 0.0, ['cpu.mode' => 'idle'], true), Points::of($idle)],
        ]);
    }
}
