<?php

declare(strict_types=1);

namespace Tests\Core\Scheduling;

use Fulcrion\Core\Scheduling\CurvePoint;
use Fulcrion\Core\Scheduling\Elastic;
use Fulcrion\Core\Scheduling\JobModel;
use Fulcrion\Core\Scheduling\Profile;
use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Scheduling\RunFacts;
use Fulcrion\Core\Scheduling\RuntimeDistribution;
use Fulcrion\Core\Scheduling\ScalingCurve;
use Fulcrion\Core\Scheduling\Scheduler;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\StageTimes;
use Fulcrion\Core\Scheduling\TaskGraph;
use Fulcrion\Core\Scheduling\TaskOrder;
use Fulcrion\Core\Scheduling\TaskTable;
use Fulcrion\Core\Scheduling\WorkerRecommendations;
use Fulcrion\Core\Statistics\Spread;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * What is found quickly against what trying everything finds.
 */
final class OracleTest extends TestCase
{
    public function test_every_choice_is_the_one_trying_all_numbers_finds(): void
    {
        $random = new Randomizer(new Mt19937(31));
        for ($round = 0; $round < 25; $round++) {
            $model = new JobModel(self::job($random, $random->getInt(4, 30)));
            $widest = $model->widest();
            $all = [];
            for ($n = 1; $n <= $widest; $n++) {
                $all[$n] = $model->timeUs($n);
            }
            $shortest = min($all);
            $curve = ScalingCurve::of($model);
            $choices = new WorkerRecommendations($curve);
            self::assertSame($shortest, $choices->ceiling()->timeUs);
            $all = array_slice($all, 0, $curve->ceiling, true);
            $cost = static fn (int $n): float => $n * $all[$n];
            $cheapest = min(array_map($cost, array_keys($all)));
            self::assertEqualsWithDelta($cheapest, $choices->cheapest()->workers * $choices->cheapest()->timeUs, 1e-3);
            // On the front nothing is beaten in both, and everything that is not beaten is on it.
            $front = array_map(static fn (CurvePoint $p): int => $p->workers, $curve->front());
            foreach (array_keys($all) as $n) {
                $beaten = array_filter(
                    array_keys($all),
                    static fn (int $m): bool => $m !== $n &&
                        $all[$m] <= $all[$n] &&
                        $cost($m) <= $cost($n) &&
                        ($all[$m] < $all[$n] || $cost($m) < $cost($n)),
                );
                self::assertSame($beaten === [], in_array($n, $front, true), "{$n} workers");
            }
            foreach ([1.0, 1.1, 1.5, 3.0] as $slack) {
                $within = (int) ($slack * $shortest);
                $inTime = array_filter(array_keys($all), static fn (int $n): bool => $all[$n] <= $within);
                $best = min(array_map($cost, $inTime));
                $chosen = $choices->deadline($within);
                self::assertNotNull($chosen);
                self::assertEqualsWithDelta($best, $chosen->workers * $chosen->timeUs, 1e-3);
            }
            $sum = (1.3 * $cheapest) / 3.6e9;
            $affordable = array_filter(array_keys($all), static fn (int $n): bool => $cost($n) / 3.6e9 <= $sum);
            self::assertSame(min(array_map(static fn (int $n): int => $all[$n], $affordable)), $choices->budget($sum)?->timeUs);
        }
    }

    public function test_a_changing_number_is_near_the_best_of_all_that_can_be_tried(): void
    {
        $random = new Randomizer(new Mt19937(32));
        [$found, $best] = [0, 0];
        for ($round = 0; $round < 12; $round++) {
            $model = new JobModel(self::job($random, 7));
            $curve = ScalingCurve::of($model);
            $within = (int) (1.25 * $model->timeUs($curve->ceiling));
            $hold = (int) ceil($within / 3);
            $plan = (new Elastic($model, $curve, 1, 0, $hold))->plan($within);
            self::assertNotNull($plan);
            // All levels of three stretches.
            $least = PHP_INT_MAX;
            $most = min(6, $curve->ceiling);
            for ($code = 0; $code < ($most + 1) ** 3; $code++) {
                $levels = [
                    [0, $code % ($most + 1)],
                    [$hold, intdiv($code, $most + 1) % ($most + 1)],
                    [2 * $hold, intdiv($code, ($most + 1) ** 2)],
                ];
                $schedule = $model->scheduler()->elastic($levels, true);
                if ($schedule->makespanUs <= $within) {
                    $least = min($least, self::paid($levels, $schedule->used(), $schedule->makespanUs));
                }
            }
            self::assertGreaterThanOrEqual(0.999 * min($least, $plan->paidUs), $plan->paidUs);
            $found += $plan->paidUs;
            $best += min($least, $plan->paidUs);
        }
        self::assertLessThan(1.06, $found / $best, 'together at most 6% dearer than the best');
    }

    public function test_with_more_to_do_at_once_bounds_hold_for_times_and_workers_that_start_late(): void
    {
        $random = new Randomizer(new Mt19937(33));
        for ($round = 0; $round < 60; $round++) {
            [$graph, $durations] = Jobs::randomGraph($random, $random->getInt(2, 25));
            $late = $random->getInt(1, 12);
            $at = new Scheduler($graph, $durations, TaskOrder::LongestPath);
            $slow = new Scheduler($graph, $durations, TaskOrder::LongestPath, [], [$late]);
            foreach ([1, 3, 9] as $workers) {
                // All come late by as much: everything is later by as much.
                self::assertSame($at->run($workers)->makespanUs + $late, $slow->run($workers)->makespanUs);
                self::assertSame(
                    $at->run($workers)->makespanUs,
                    $at->elastic([[0, $workers], [5, $workers]])->makespanUs,
                    'no change is no change',
                );
            }
        }
    }

    public function test_the_line_of_a_stage_is_found_whatever_lies_far_off_it(): void
    {
        $tasks = [];
        for ($i = 0; $i < 60; $i++) {
            $mb = 10 + $i;
            // Two seconds and one for each ten million bytes; every tenth has five times the luck.
            $tasks[] = ["t{$i}", 'a', 0, (2 + intdiv($mb, 10)) * ($i % 10 === 0 ? 5 : 1), $i, intdiv($mb, 10) * 10_000_000];
        }
        $times = StageTimes::of(Jobs::run([new Stage('a', 'a')], $tasks));
        self::assertEqualsWithDelta(2e6, $times->lines[0]['fixedUs'], 3e5);
        self::assertEqualsWithDelta(0.1, $times->lines[0]['usPerByte'], 0.01);
        $ratios = $times->ratios[0];
        sort($ratios);
        self::assertEqualsWithDelta(1.0, $ratios[30], 0.05);
        self::assertEqualsWithDelta(5.0, $ratios[59], 0.5);
        // What a giant took stands, and luck leaves it what it is.
        $tasks[] = ['giant', 'a', 0, 900, 0, 2_000_000_000];
        $model = new JobModel(Jobs::run([new Stage('a', 'a')], $tasks));
        self::assertEqualsWithDelta(900e6, $model->times->expectedUs[60], 1.0);
        self::assertLessThan(10.0, max($model->times->ratios[0]));
        $double = $model->scaled(2.0);
        self::assertEqualsWithDelta(900e6 + 0.1 * 2e9, $double[60], 1e7, 'what grows with the bytes grows');
    }

    public function test_drawn_times_have_the_mean_and_the_scatter_of_the_recorded_ones(): void
    {
        $random = new Randomizer(new Mt19937(34));
        $tasks = [];
        for ($i = 0; $i < 400; $i++) {
            $tasks[] = ["t{$i}", 'a', 0, $random->getInt(5, 15), $i, 1_000_000];
        }
        $run = Jobs::run([new Stage('a', 'a')], $tasks, 400);
        $model = new JobModel($run);
        $means = [];
        for ($draw = 0; $draw < 60; $draw++) {
            $means[] = array_sum($model->drawn($random)) / 400;
        }
        $mean = array_sum($run->durationsUs) / 400;
        self::assertEqualsWithDelta(1.0, array_sum($means) / 60 / $mean, 0.01);
        // The mean of 400 drawn ones scatters by their deviation through the root of 400, and so does what they are drawn from.
        $deviation = sqrt(array_sum(array_map(static fn (int $us): float => ($us - $mean) ** 2, $run->durationsUs)) / 400);
        $scatter = sqrt(array_sum(array_map(static fn (float $one): float => ($one - $mean) ** 2, $means)) / 60);
        self::assertEqualsWithDelta((sqrt(2) * $deviation) / 20, $scatter, (0.4 * $deviation) / 20);
        // With a worker a task the job ends with the slowest of all: the chance of 14 s is that no draw gives 15.
        $curve = ScalingCurve::of($model);
        $distribution = RuntimeDistribution::of($model, $curve, $random, 80, 1);
        self::assertLessThan(0.05, $distribution->chance($curve, 400, 14_500_000));
        self::assertGreaterThan(0.95, $distribution->chance($curve, 400, 15_500_000));
    }

    public function test_a_profile_keeps_its_area_however_it_is_parted(): void
    {
        $random = new Randomizer(new Mt19937(35));
        $starts = $durations = [];
        for ($i = 0; $i < 200; $i++) {
            $starts[] = $random->getInt(0, 1000);
            $durations[] = $random->getInt(0, 300);
        }
        $profile = Profile::of($starts, $durations);
        self::assertSame(array_sum($durations), $profile->area());
        foreach ([1, 7, 100, 1300] as $parts) {
            self::assertEqualsWithDelta(array_sum($durations), (array_sum($profile->parts(0, 1300, $parts)) * 1300) / $parts, 1e-6);
        }
        // Moment by moment.
        foreach ([0, 100, 500, 999, 1250] as $at) {
            $running = count(
                array_filter(array_keys($starts), static fn (int $i): bool => $starts[$i] <= $at && $at < $starts[$i] + $durations[$i]),
            );
            self::assertEqualsWithDelta($running, $profile->parts($at, $at + 1, 1)[0], 1e-9);
        }
        // Of nine values the fifth has half of all others above it, the first a tenth below it; beyond them nothing is known.
        self::assertSame(
            [5.0, 1.0, 9.0, 9.0, 1.5],
            [
                Spread::further(range(1, 9), 0.5),
                Spread::further(range(1, 9), 0.1),
                Spread::further(range(1, 9), 0.9),
                Spread::further(range(1, 9), 0.99),
                Spread::further(range(1, 9), 0.15),
            ],
        );
        self::assertSame(
            [2.0, 2.5, 4.0],
            [Spread::quantile([4, 1, 2, 3], 1 / 3), Spread::median([1, 2, 3, 4]), Spread::quantile([1, 4], 1.0)],
        );
    }

    public function test_columns_in_parts_are_the_same_table_again(): void
    {
        $random = new Randomizer(new Mt19937(36));
        $run = self::job($random, 25);
        $table = new TaskTable();
        $table->append($run->table->columns());
        $table->append($run->table->columns());
        $count = $run->table->count();
        self::assertSame(2 * $count, $table->count());
        self::assertSame($run->table->ids[3], $table->ids[$count + 3]);
        self::assertSame($run->table->figures['bytes_read'], array_slice($table->figures['bytes_read'], $count));
        $again = new TaskTable();
        $again->append($run->table->columns());
        self::assertEquals($run->table, $again);
        self::assertEquals(RunFacts::of($run), RunFacts::of(RecordedRun::of($run->head, $run->stages, $again)));
    }

    public function test_gates_say_the_same_as_all_pairs(): void
    {
        $random = new Randomizer(new Mt19937(37));
        for ($round = 0; $round < 40; $round++) {
            $run = self::job($random, $random->getInt(3, 14));
            $stage = static fn (int $task): Stage => $run->stages[$run->table->stage[$task]];
            $edges = [];
            for ($after = 0; $after < $run->graph->tasks; $after++) {
                for ($before = 0; $before < $run->graph->tasks; $before++) {
                    if (in_array($stage($before)->id, $stage($after)->after, true)) {
                        $edges[] = [$before, $after];
                    }
                }
            }
            $pairs = TaskGraph::edges($run->graph->tasks, $run->graph->tasks, array_column($edges, 0), array_column($edges, 1));
            self::assertSame($pairs->spanUs($run->durationsUs), $run->graph->spanUs($run->durationsUs));
            self::assertSame(
                $pairs->earliest($run->durationsUs),
                array_slice($run->graph->earliest($run->durationsUs), 0, $run->graph->tasks),
            );
            foreach ([1, 2, 5] as $workers) {
                self::assertSame(
                    (new Scheduler($pairs, $run->durationsUs, TaskOrder::FirstReady))->run($workers, true)->starts,
                    (new Scheduler($run->graph, $run->durationsUs, TaskOrder::FirstReady))->run($workers, true)->starts,
                );
            }
        }
    }

    /**
     * What is paid, second by second; delays are none.
     *
     * @param  list<array{int, int}>  $levels
     */
    private static function paid(array $levels, Profile $used, int $untilUs): int
    {
        $moments = array_unique([...array_column($levels, 0), ...$used->timesUs, $untilUs]);
        sort($moments);
        $paid = 0;
        foreach ($moments as $i => $at) {
            $next = min($untilUs, $moments[$i + 1] ?? $at);
            $level = $busy = 0;
            foreach ($levels as [$from, $count]) {
                $level = $from <= $at ? $count : $level;
            }
            foreach ($used->timesUs as $k => $from) {
                $busy = $from <= $at ? $used->levels[$k] : $busy;
            }
            $paid += max($level, $busy) * max(0, $next - $at);
        }

        return $paid;
    }

    /** Some stages, each waiting for one or two before it. */
    private static function job(Randomizer $random, int $size): RecordedRun
    {
        $stages = $tasks = [];
        for ($s = 0; $s < 4; $s++) {
            $stages[] = new Stage(
                "s{$s}",
                "s{$s}",
                $s === 0 ? [] : array_values(array_unique(['s'.$random->getInt(0, $s - 1), 's'.($s - 1)])),
            );
            for ($i = 0, $of = $random->getInt(1, $size); $i < $of; $i++) {
                $tasks[] = ["s{$s}-{$i}", "s{$s}", 100 * $s, 100 * $s + $random->getInt(1, 20), $i, $random->getInt(1, 9) * 1_000_000];
            }
        }
        $run = Jobs::run($stages, $tasks, 5);

        // Without start-up, so that only the tasks count.
        return RecordedRun::of($run->head, $stages, $run->table);
    }
}
