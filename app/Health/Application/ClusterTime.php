<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Models\Cluster;
use App\Health\Charts\Measure;
use App\Health\Charts\StateChart;
use App\Metrics\Signals\HostMeasure;
use App\Metrics\Store\HostReadings;
use App\Platform\Figures\Figure;
use App\Platform\Figures\TimeMarks;
use App\Telemetry\Store\ReadingGaps;
use Closure;
use DateTimeZone;
use Fulcrion\Core\Statistics\LaggedCorrelation;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Time\Steps;
use Fulcrion\Core\Time\Window;
use Illuminate\Support\Facades\DB;

/**
 * One cluster over time: what was at work and what waited, over what its nodes did, and what of that moved with it.
 */
final readonly class ClusterTime
{
    private const BUCKET = 300;

    private const MOST_STEPS = 240;

    public const STEPS = [300, 900, 3_600, 6 * 3_600, 86_400];

    private const PATIENCE = 700;

    /** Steps something may come before or after. */
    private const LAG = 3;

    private const WEAK = 0.3;

    /** What the line of the moment that is looked at says. */
    private const CHOSEN = 'looked at';

    /**
     * @param  list<array{StateChart, Figure}>  $charts
     * @param  list<array{string, string, LaggedCorrelation}>  $moved lane, host, and how well it tells the load; the best first
     * @param  int|null  $at the moment that was asked for, or the first second of the step in which most was in flight
     * @param  int  $seconds for which it is looked at
     */
    private function __construct(
        public int $step,
        public array $charts,
        public array $moved,
        public ?int $at,
        public int $seconds,
        public string $sentence,
    ) {
    }

    /**
     * @param  array<int, string>  $marks what happened, by Unix second
     * @param  int|null  $at a moment to look at; null for the interval in which most was in flight
     * @param  int  $seconds for which it is looked at
     * @param  Closure(int, int): string  $link address for an interval
     */
    public static function of(
        Cluster $cluster,
        Window $window,
        int $now,
        DateTimeZone $zone,
        HostReadings $store,
        ReadingGaps $gaps,
        array $marks,
        ?int $at,
        int $seconds,
        Closure $link,
    ): self {
        $to = max($window->from + self::BUCKET, min($window->to, $now - $now % self::BUCKET));
        $step = Steps::shortest($to - $window->from, self::STEPS, self::MOST_STEPS);
        $from = $window->from - $window->from % $step;
        $shown = new Window($from, max($from + self::BUCKET, $window->to));
        [$running, $waiting] = self::load($cluster->id, $from, $to, $step);
        $lanes = self::lanes($cluster->id, $from, $to, $step, $store);
        $charts = [new StateChart('in-flight', 'In flight', 'Executions at work and waiting in queues, on the mean of each interval.', [
            Measure::given('at work', $running), Measure::given('waiting', $waiting),
        ], Quantity::digits(...))];
        foreach ($lanes as $name => [$measure, $byHost, $middle]) {
            $charts[] = self::lane($name, $measure, $byHost, $middle);
        }
        $both = array_map(static fn (?float $a, ?float $b): ?float => $a === null ? null : $a + ($b ?? 0.0), $running, $waiting);
        $seconds = $at === null ? $step : $seconds;
        $at ??= self::peak($both, $from, $step);
        if ($at !== null) {
            // Where its mean stands.
            $marks = TimeMarks::together($marks, [$at + intdiv($seconds, 2) => self::CHOSEN]);
        }

        return new self(
            $step,
            StateChart::drawn($charts, [], $shown, $step, $gaps->of($cluster, $from, $to, $now), $marks, $zone, $link),
            self::moved($both, $lanes),
            $at,
            $seconds,
            self::sentence($cluster, $running, $waiting),
        );
    }

    /**
     * @param  list<float|null>  $load
     */
    private static function peak(array $load, int $from, int $step): ?int
    {
        $known = Spread::known($load);
        $place = $known === [] ? false : array_search(max($known), $load, true);

        return $place === false ? null : $from + $place * $step;
    }

    /**
     * @return array{list<float|null>, list<float|null>} at work and waiting, on the mean of each step; null where nothing is known
     */
    private static function load(int $clusterId, int $from, int $to, int $step): array
    {
        $rows = DB::table('load_by_origin_five_minute')->where('cluster_id', $clusterId)->where('bucket_at', '>=', $from)
            ->where('bucket_at', '<', $to)->groupByRaw('(bucket_at - ?) DIV ?', [$from, $step])
            ->selectRaw('(bucket_at - ?) DIV ? AS place, SUM(load_us) AS load_us, SUM(queued_us) AS queued_us', [$from, $step])->get();
        $running = $waiting = [];
        // Before the first execution and after the last one nobody knows; in between nothing was there.
        $places = $rows->pluck('place')->map(static fn (mixed $place): int => (int) $place)->all();
        for ($place = 0, $steps = intdiv($to - $from + $step - 1, $step); $place < $steps; $place++) {
            $isKnown = $places !== [] && $place >= min($places) && $place <= max($places);
            $running[] = $waiting[] = $isKnown ? 0.0 : null;
        }
        foreach ($rows as $row) {
            $seconds = min($step, $to - $from - (int) $row->place * $step);
            $waits = (int) $row->queued_us / 1e6 / $seconds;
            $waiting[(int) $row->place] = $waits;
            $running[(int) $row->place] = max(0.0, (int) $row->load_us / 1e6 / $seconds - $waits);
        }

        return [array_values($running), array_values($waiting)];
    }

    /**
     * @return array<string, array{HostMeasure, array<string, list<float|null>>, list<float|null>}> measure, values by host and the middle
     *     of them, by name of the lane
     */
    private static function lanes(int $clusterId, int $from, int $to, int $step, HostReadings $store): array
    {
        $lanes = [];
        foreach (['Processors at work' => HostMeasure::Processor, 'Disks' => HostMeasure::Disk, 'Network' => HostMeasure::Network,
            'Memory' => HostMeasure::Memory] as $name => $measure) {
            $byHost = [];
            foreach ($store->ofAll($clusterId, $measure->names(), $from, $to, self::PATIENCE, $step) as $host => $readings) {
                $byHost[$host] = $measure->values($readings, $from, $to, $step);
            }
            $middle = self::ofAll($byHost, Spread::median(...));
            if (Spread::known($middle) !== []) {
                $lanes[$name] = [$measure, $byHost, $middle];
            }
        }

        return $lanes;
    }

    /**
     * @param  array<string, list<float|null>>  $byHost
     * @param  Closure(non-empty-array<float>): float  $take
     * @return list<float|null> what is taken of those that are known, at each place
     */
    private static function ofAll(array $byHost, Closure $take): array
    {
        $taken = [];
        foreach (array_keys(array_values($byHost)[0] ?? []) as $place) {
            $known = Spread::known(array_column($byHost, $place));
            $taken[] = $known === [] ? null : $take($known);
        }

        return $taken;
    }

    /**
     * @param  array<string, list<float|null>>  $byHost
     * @param  list<float|null>  $middle
     */
    private static function lane(string $name, HostMeasure $measure, array $byHost, array $middle): StateChart
    {
        $most = self::ofAll($byHost, static fn (array $known): float => max($known));
        $least = self::ofAll($byHost, static fn (array $known): float => min($known));
        $measures = count($byHost) === 1 ? [Measure::given((string) array_key_first($byHost), $middle)]
            : [Measure::given('the node in the middle', $middle), Measure::given('the most', $most), Measure::given('the least', $least)];

        return new StateChart(strtolower(str_replace(' ', '-', $name)), $name, $measure->how().', of '.count($byHost).' '
            .(count($byHost) === 1 ? 'node' : 'nodes').'.', $measures, $measure->format(...), $measure->base());
    }

    /**
     * @param  list<float|null>  $load
     * @param  array<string, array{HostMeasure, array<string, list<float|null>>, list<float|null>}>  $lanes
     * @return list<array{string, string, LaggedCorrelation}>
     */
    private static function moved(array $load, array $lanes): array
    {
        $moved = [];
        foreach ($lanes as $name => [, $byHost, $middle]) {
            foreach (['the node in the middle' => $middle] + (count($byHost) === 1 ? [] : $byHost) as $host => $values) {
                $how = LaggedCorrelation::of($load, $values, self::LAG);
                if ($how !== null && abs($how->r) >= self::WEAK) {
                    $moved[] = [$name, (string) $host, $how];
                }
            }
        }
        usort($moved, static fn (array $a, array $b): int => abs($b[2]->r) <=> abs($a[2]->r));

        return array_slice($moved, 0, 12);
    }

    /**
     * @param  list<float|null>  $running
     * @param  list<float|null>  $waiting
     */
    private static function sentence(Cluster $cluster, array $running, array $waiting): string
    {
        [$ran, $waited] = [Spread::known($running), Spread::known($waiting)];
        if ($ran === []) {
            return "Nothing is known of what ran on {$cluster->name} in this window";
        }
        $most = max([0.0, ...$waited]);

        return "{$cluster->name} had ".Quantity::digits(array_sum($ran) / count($ran)).' executions at work on the mean'
            .($most >= 0.1 ? ', and at most '.Quantity::digits($most).' waiting' : ', and none that waited long');
    }
}
