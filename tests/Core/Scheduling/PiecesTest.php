<?php

declare(strict_types=1);

namespace Tests\Core\Scheduling;

use Fulcrion\Core\Scheduling\CurvePoint;
use Fulcrion\Core\Scheduling\ElasticPlan;
use Fulcrion\Core\Scheduling\InputTrend;
use Fulcrion\Core\Scheduling\JobModel;
use Fulcrion\Core\Scheduling\Profile;
use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Scheduling\Regression;
use Fulcrion\Core\Scheduling\RunFacts;
use Fulcrion\Core\Scheduling\RuntimeDistribution;
use Fulcrion\Core\Scheduling\ScalingCurve;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\StageChange;
use Fulcrion\Core\Scheduling\StageSensitivity;
use Fulcrion\Core\Scheduling\StageTimes;
use Fulcrion\Core\Scheduling\Task;
use Fulcrion\Core\Scheduling\TaskGraph;
use Fulcrion\Core\Scheduling\TaskState;
use Fulcrion\Core\Scheduling\TaskTable;
use Fulcrion\Core\Scheduling\WhatIf;
use Fulcrion\Core\Scheduling\WorkerRecommendations;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * The parts the model of a job is made of, each worked by hand or against a plainer way to the same.
 */
final class PiecesTest extends TestCase
{
    private const S = 1_000_000;

    private const WEEK = 7 * 86_400 * self::S;

    public function test_ways_through_a_graph_are_those_found_by_walking_all_of_them(): void
    {
        $random = new Randomizer(new Mt19937(41));
        for ($world = 0; $world < 120; $world++) {
            $tasks = $random->getInt(1, 9);
            [$graph, $durations, $edges] = Jobs::randomGraph($random, $tasks);
            $after = array_fill(0, $tasks, []);
            foreach ($edges as [$from, $to]) {
                $after[$from][] = $to;
            }
            // Every way, from every task.
            $walk = static function (int $task, int $so, array $path) use (&$walk, $after, $durations): array {
                $so += $durations[$task];
                $path[] = $task;
                $ways = [[$so, $path]];
                foreach ($after[$task] as $next) {
                    array_push($ways, ...$walk($next, $so, $path));
                }

                return $ways;
            };
            $earliest = array_fill(0, $tasks, 0);
            $longest = 0;
            $tails = [];
            for ($task = 0; $task < $tasks; $task++) {
                $ways = $walk($task, 0, []);
                $tails[$task] = max(array_column($ways, 0));
                $longest = max($longest, $tails[$task]);
                foreach ($ways as [$length, $path]) {
                    $last = $path[count($path) - 1];
                    $earliest[$last] = max($earliest[$last], $length - $durations[$last]);
                }
            }
            self::assertSame($earliest, $graph->earliest($durations));
            self::assertSame($tails, $graph->tails($durations));
            self::assertSame($longest, $graph->spanUs($durations));
            $path = $graph->criticalPath($durations);
            self::assertSame($longest, array_sum(array_map(static fn (int $task): int => $durations[$task], $path)));
            for ($i = 1; $i < count($path); $i++) {
                self::assertContains($path[$i], $after[$path[$i - 1]], 'each task of the path waits for the one before');
            }
            $most = 0;
            for ($at = 0; $at < $longest; $at++) {
                $running = array_filter(
                    range(0, $tasks - 1),
                    static fn (int $task): bool => $earliest[$task] <= $at && $at < $earliest[$task] + $durations[$task],
                );
                $most = max($most, count($running));
            }
            self::assertSame($most, $graph->width($durations)->most());
            $ended = array_map(static fn (): int => $random->getInt(1, 99), range(1, $tasks));
            $ready = array_fill(0, $tasks, 0);
            foreach ($edges as [$from, $to]) {
                $ready[$to] = max($ready[$to], $ended[$from]);
            }
            self::assertSame($ready, $graph->released($ended));
            self::assertSame([], $graph->cycle());
        }
        $none = TaskGraph::edges(0, 0, [], []);
        self::assertSame([[], [], 0, []], [$none->earliest([]), $none->tails([]), $none->spanUs([]), $none->criticalPath([])]);
    }

    public function test_a_circle_is_found_wherever_it_is(): void
    {
        $random = new Randomizer(new Mt19937(42));
        for ($world = 0; $world < 80; $world++) {
            $tasks = $random->getInt(3, 12);
            [, , $edges] = Jobs::randomGraph($random, $tasks);
            $a = $random->getInt(0, $tasks - 2);
            $b = $random->getInt($a + 1, $tasks - 1);
            array_push($edges, [$a, $b], [$b, $a]);
            $circle = TaskGraph::edges($tasks, $tasks, array_column($edges, 0), array_column($edges, 1))->cycle();
            self::assertGreaterThanOrEqual(3, count($circle));
            self::assertSame($circle[0], $circle[count($circle) - 1]);
            for ($i = 1; $i < count($circle); $i++) {
                self::assertContains([$circle[$i - 1], $circle[$i]], $edges, 'each step of it is one that was given');
            }
        }
    }

    public function test_a_profile_is_how_many_run_at_each_moment(): void
    {
        $random = new Randomizer(new Mt19937(43));
        for ($world = 0; $world < 60; $world++) {
            [$starts, $durations] = [[], []];
            for ($i = $random->getInt(0, 12); $i > 0; $i--) {
                $starts[] = $random->getInt(0, 20);
                $durations[] = $random->getInt(0, 9);
            }
            $profile = Profile::of($starts, $durations);
            $area = $most = 0;
            for ($at = 0; $at < 32; $at++) {
                $level = 0;
                foreach ($starts as $i => $start) {
                    $level += $start <= $at && $at < $start + $durations[$i] ? 1 : 0;
                }
                $known = 0;
                foreach ($profile->timesUs as $i => $time) {
                    $known = $time <= $at ? $profile->levels[$i] : $known;
                }
                self::assertSame($level, $known);
                $area += $level;
                $most = max($most, $level);
            }
            self::assertSame([$area, $most], [$profile->area(), $profile->most()]);
        }
        $profile = new Profile([2, 6, 10], [3, 1, 0]);
        self::assertSame([[3.0], [1.0], [0.5], [1.5]], [
            $profile->parts(2, 6, 1), $profile->parts(6, 10, 1), $profile->parts(8, 12, 1), $profile->parts(0, 4, 1),
        ]);
        self::assertEqualsWithDelta([0.0, 3.0, 5 / 3, 2 / 3], $profile->parts(-1, 11, 4), 1e-9, 'from one part to the next');
    }

    public function test_what_a_recurring_job_will_read_lies_on_a_line_through_what_it_read(): void
    {
        $at = 100 * self::WEEK;
        $runs = static fn (int ...$bytes): array => array_map(
            static fn (int $read, int $i): array => [$at - (count($bytes) - $i) * self::WEEK, $read],
            array_values($bytes),
            array_keys(array_values($bytes)),
        );
        // Four weeks, three, two and one before: 10, 14, 12, 18. Slope 11 / 5, middle 13.5 two and a half weeks ago.
        $trend = InputTrend::of($runs(10, 14, 12, 18), $at);
        self::assertEqualsWithDelta(19.0, $trend?->nextBytes, 1e-9);
        self::assertEqualsWithDelta(2.2 / 19, $trend->weekly, 1e-9);
        // Off the line by 0.2, 1.6, 2.6, 1.2: 10.8 / 2, times 1 + 1/4 + 2.5^2 / 5.
        self::assertEqualsWithDelta(sqrt(5.4 * 2.5), $trend->deviation, 1e-9);
        self::assertSame(4, $trend->runs);
        $three = InputTrend::of($runs(10, 20, 30), $at);
        self::assertEqualsWithDelta([40.0, 0.25, 0.0], [$three?->nextBytes, $three?->weekly, $three?->deviation], 1e-9);
        $two = InputTrend::of($runs(10, 20), $at);
        self::assertSame([15.0, 0.0, 0.0], [$two?->nextBytes, $two?->weekly, $two?->deviation], 'two runs are no trend');
        $falling = InputTrend::of($runs(30, 20, 10, 1), $at);
        self::assertSame([0.0, 0.0], [$falling?->nextBytes, $falling?->weekly], 'never less than nothing');
        self::assertNull(InputTrend::of([], $at));
        $same = InputTrend::of([[5, 10], [5, 20], [5, 30], [5, 40]], 5);
        self::assertEqualsWithDelta(25.0, $same?->nextBytes, 1e-9);
        self::assertEqualsWithDelta(sqrt(500 / 2 * 1.25), $same->deviation, 1e-9);
    }

    public function test_a_job_has_become_slower_since_none_of_its_runs_was_nearly_as_quick(): void
    {
        $of = static fn (int ...$work): ?array => ($found = Regression::of(array_map(
            static fn (int $us, int $i): array => [1_000 + $i, $us * 10, 10],
            array_values($work),
            array_keys(array_values($work)),
        ))) === null ? null : [$found->sinceUs, $found->factor];
        self::assertSame([1_003, 1.2], $of(100, 100, 100, 120));
        self::assertNull($of(100, 100, 100, 119));
        self::assertNull($of(100, 100, 120), 'three before are needed');
        self::assertNull($of(100, 100, 100, 150, 110), 'one was quick again');
        self::assertSame([1_004, 1.5], $of(100, 100, 100, 110, 150, 140, 160));
        self::assertSame([1_003, 2.0], $of(90, 100, 130, 200, 200, 200), 'against the middle of those before');
        self::assertNull($of(0, 0, 0, 5));
        self::assertNull(Regression::of([]));
        $input = Regression::of([[1, 100, 10], [2, 200, 20], [3, 100, 10], [4, 400, 40]]);
        self::assertNull($input, 'more to read is no regression');
    }

    public function test_two_runs_are_compared_by_stage(): void
    {
        $stages = static fn (string ...$ids): array => array_map(
            static fn (string $id): Stage => new Stage($id, strtoupper($id)),
            array_values($ids),
        );
        $before = Jobs::run($stages('a', 'b', 'c'), [
            ['a1', 'a', 0, 10, 0, 1_000], ['a2', 'a', 2, 12, 1, 1_000], ['b1', 'b', 12, 20, 0, 500], ['c1', 'c', 20, 21, 0],
        ]);
        $after = Jobs::run($stages('a', 'b', 'd'), [
            ['a1', 'a', 0, 30, 0, 2_000], ['a2', 'a', 0, 30, 1, 1_000], ['b1', 'b', 30, 34, 0, 500], ['d1', 'd', 34, 39, 0],
        ]);
        $changes = StageChange::between(RunFacts::of($before), $stages('a', 'b', 'c'), RunFacts::of($after), $stages('a', 'b', 'd'));
        self::assertSame(
            ['A' => 40 * self::S, 'D' => 5 * self::S, 'C' => -self::S, 'B' => -4 * self::S],
            array_combine(
                array_map(static fn (StageChange $one): string => $one->stage, $changes),
                array_map(static fn (StageChange $one): int => $one->moreUs(), $changes),
            ),
            'what takes most more comes first',
        );
        [$a, $d, $c, $b] = $changes;
        self::assertSame(['tasks' => 2, 'workUs' => 20 * self::S, 'bytesRead' => 2_000, 'wallUs' => 12 * self::S], $a->before);
        self::assertSame([null, null], [$d->before, $c->after]);
        self::assertEqualsWithDelta((60 / 3_000) / (20 / 2_000), $a->perByte(), 1e-9);
        self::assertEqualsWithDelta(0.5, $b->perByte(), 1e-9);
        self::assertNull($c->perByte());
        self::assertNull($d->perByte());
    }

    public function test_what_a_worker_takes_beside_its_tasks_is_read_off_the_record(): void
    {
        // Two workers begin after 3 and 4 s; between tasks that were there already 1 s each, once 9 s (it was away).
        $tasks = [
            ['a1', 'a', 3, 10, 0], ['a2', 'a', 11, 20, 0], ['a3', 'a', 21, 30, 0],
            ['a4', 'a', 4, 10, 1], ['a5', 'a', 11, 20, 1], ['a6', 'a', 29, 30, 1],
        ];
        $run = Jobs::run([new Stage('a', 'a')], $tasks);
        self::assertSame(self::S, $run->overheadUs, 'a gap of more than five times the middle one is none');
        self::assertSame([2 * self::S, 3 * self::S], $run->startUpUs, 'the first task bears its own');
        self::assertSame(30 * self::S, $run->elapsedUs());
        self::assertSame(2, $run->workers(), 'as many as were seen');
        self::assertSame(5, Jobs::run([new Stage('a', 'a')], $tasks, 5)->workers(), 'or as were reserved');
        self::assertSame([7, 9, 9, 6, 9, 1], array_map(static fn (int $us): int => intdiv($us, self::S), $run->durationsUs));
        self::assertSame([8, 10, 10, 7, 10, 2], array_map(static fn (int $us): int => intdiv($us, self::S), $run->loadedUs()));
        // 5 s is just five times the middle gap and counts: (1 + 1 + 1 + 5) / 4.
        $tasks[5] = ['a6', 'a', 25, 30, 1];
        self::assertSame(2 * self::S, Jobs::run([new Stage('a', 'a')], $tasks)->overheadUs);
        // What was not ready is not waited for by the worker.
        $waits = Jobs::run([new Stage('a', 'a'), new Stage('b', 'b', ['a'])], [
            ['a1', 'a', 0, 10, 0], ['a2', 'a', 0, 30, 1], ['b1', 'b', 32, 40, 0],
        ]);
        self::assertSame(0, $waits->overheadUs);
        self::assertSame([0, 0], $waits->startUpUs);
        self::assertSame(Jobs::START + 30 * self::S, $waits->readyUs[2]);
    }

    public function test_stages_without_an_order_are_ordered_by_when_they_ran(): void
    {
        $after = static function (array $tasks, string ...$ids): array {
            $run = Jobs::run(array_map(static fn (string $id): Stage => new Stage($id, $id), array_values($ids)), array_values($tasks));
            $found = [];
            foreach ($run->stages as $stage) {
                $found[$stage->id] = $stage->after;
            }

            return [$run->inferred, $found];
        };
        self::assertSame(
            [true, ['a' => [], 'b' => ['a'], 'c' => ['b']]],
            $after([['1', 'a', 0, 10, 0], ['2', 'b', 10, 20, 0], ['3', 'c', 20, 30, 0]], 'a', 'b', 'c'),
            'what another one in between waits for is waited for anyway',
        );
        self::assertSame(
            [true, ['a' => [], 'b' => [], 'c' => ['a', 'b']]],
            $after([['1', 'a', 0, 10, 0], ['2', 'b', 5, 20, 1], ['3', 'c', 20, 30, 0]], 'a', 'b', 'c'),
        );
        self::assertSame(
            [true, ['a' => [], 'b' => []]],
            $after([['1', 'a', 0, 10, 0], ['2', 'b', 9, 20, 1]], 'a', 'b'),
            'stages that ran beside each other wait for nothing',
        );
        self::assertSame([false, ['a' => []]], $after([['1', 'a', 0, 10, 0]], 'a'), 'of one stage there is nothing to tell');
    }

    public function test_tasks_that_did_not_run_through_take_the_middle_time_of_their_stage(): void
    {
        $table = new TaskTable();
        $add = static function (string $id, int $from, int $to, int $attempts, TaskState $state, array $figures = []) use ($table): void {
            /** @var array<string, int> $figures */
            $start = $from < 0 ? -1 : Jobs::START + $from * self::S;
            $end = $to < 0 ? -1 : Jobs::START + $to * self::S;
            $table->add(new Task($id, 'a', null, null, -1, $start, $end, 'w', $attempts, $state, $figures), 0, 0, null, null);
        };
        $add('1', 0, 10, 1, TaskState::Done, ['bytes_read' => 100]);
        $add('2', 10, 40, 3, TaskState::Done, ['bytes_read' => 300]);
        $add('3', 40, 60, 2, TaskState::Done, ['lost_us' => 4 * self::S]);
        $add('4', 60, -1, 1, TaskState::Running);
        $add('5', -1, -1, 1, TaskState::Waiting);
        $run = RecordedRun::of(Jobs::head(0, 70), [new Stage('a', 'a')], $table);
        self::assertSame([10, 30, 20, 20, 20], array_map(static fn (int $us): int => intdiv($us, self::S), $run->durationsUs));
        self::assertSame(2, $run->guessed);
        self::assertSame([0, 20, 4, 0, 0], array_map(static fn (int $task): int => intdiv($table->lostUs($task), self::S), range(0, 4)));
        self::assertSame([10 * self::S, null], [$table->durationUs(0), $table->durationUs(3)]);
        self::assertSame(400, $run->bytesRead());
        self::assertSame(400, $run->inputBytes());
        self::assertSame(TaskState::Running, $table->stateOf(3));
        // An open task is at work until the end that is known.
        self::assertSame(10 + 30 + 20 + 10, intdiv($run->used()->area(), self::S));
        $late = RecordedRun::of(Jobs::head(0, 30), [new Stage('a', 'a')], $table);
        self::assertSame(60 * self::S, $late->elapsedUs(), 'a job does not end before its last task');
    }

    public function test_only_stages_that_wait_for_nothing_read_the_input(): void
    {
        $run = Jobs::run([new Stage('a', 'a'), new Stage('b', 'b', ['a'])], [
            ['a1', 'a', 0, 10, 0, 100], ['a2', 'a', 0, 10, 1, 50, 1, [0]], ['b1', 'b', 10, 20, 0, 30],
        ]);
        self::assertSame([100, 180], [$run->inputBytes(), $run->bytesRead()]);
    }

    public function test_a_stage_has_a_line_of_time_against_bytes(): void
    {
        $line = static function (array $points): array {
            $tasks = [];
            foreach (array_values($points) as $i => [$bytes, $seconds]) {
                $tasks[] = ["t{$i}", 'a', 0, $seconds, $i, $bytes];
            }
            $times = StageTimes::of(Jobs::run([new Stage('a', 'a')], $tasks));

            return [$times->lines[0]['fixedUs'] / self::S, $times->lines[0]['usPerByte'] / self::S, $times];
        };
        [$fixed, $per, $times] = $line([[10, 25], [20, 45], [30, 65], [35, 75]]);
        self::assertEqualsWithDelta([5.0, 2.0], [$fixed, $per], 1e-9);
        self::assertEqualsWithDelta([1.0, 1.0, 1.0, 1.0], $times->ratios[0], 1e-9);
        // One lies far off: the line is fitted again without it.
        [$fixed, $per, $times] = $line([[10, 25], [20, 45], [30, 65], [35, 75], [25, 550], [15, 35], [12, 29]]);
        self::assertEqualsWithDelta([5.0, 2.0], [$fixed, $per], 1e-6);
        self::assertEqualsWithDelta(10.0, $times->ratios[0][4], 1e-6);
        [$fixed, $per] = $line([[10, 40], [20, 30], [30, 20]]);
        self::assertEqualsWithDelta([30.0, 0.0], [$fixed, $per], 1e-9, 'more bytes never take less time');
        [$fixed, $per] = $line([[10, 10], [20, 40], [30, 70]]);
        self::assertEqualsWithDelta([0.0, 2.0], [$fixed, $per], 1e-9, 'nothing does not take less than no time');
        // Four times the middle is a giant: it keeps what it took and says nothing of the others.
        [$fixed, $per, $times] = $line([[10, 20], [10, 20], [10, 20], [40, 700]]);
        self::assertEqualsWithDelta([20.0, 0.0], [$fixed, $per], 1e-9);
        self::assertSame(700.0 * self::S, $times->expectedUs[3]);
        self::assertCount(3, $times->ratios[0]);
        [, $per] = $line([[10, 20], [10, 20], [10, 20], [39, 78]]);
        self::assertEqualsWithDelta(2.0, $per, 1e-6);
    }

    public function test_more_to_read_takes_longer_by_the_line_only(): void
    {
        $tasks = array_map(static fn (int $i): array => ["t{$i}", 'a', 0, 5 + 2 * $i, $i, $i], range(10, 13));
        $model = new JobModel(Jobs::run([new Stage('a', 'a')], $tasks, 4));
        $seconds = static fn (array $us): array => array_map(static fn (int $one): float => $one / self::S, $us);
        self::assertSame([25.0, 27.0, 29.0, 31.0], $seconds($model->loadedUs()));
        self::assertSame([35.0, 38.0, 41.0, 44.0], $seconds($model->scaled(1.5)), 'the five fixed seconds stay');
        self::assertSame([25.0, 27.0, 29.0, 31.0], $seconds($model->scaled(1.0)));
        self::assertSame($model->scaled(1.5), (new JobModel($model->run, inputFactor: 1.5))->loadedUs());
        self::assertSame([31 * self::S, 58 * self::S, 112 * self::S], array_map($model->timeUs(...), [4, 2, 1]));
        self::assertSame(4, $model->widest());
        self::assertSame(0.0, $model->fitError());
        self::assertSame($model->loadedUs(), $model->drawn(new Randomizer(new Mt19937(1))), 'without scatter there is no luck');
    }

    public function test_stragglers_and_skew_begin_at_their_limits(): void
    {
        $run = static fn (array $tasks): RecordedRun => Jobs::run([new Stage('a', 'a')], array_values($tasks));
        $alike = static fn (int $last, int $bytes = 100): array => [
            ...array_map(static fn (int $i): array => ["t{$i}", 'a', 0, 10, $i, 100], range(0, 8)), ['last', 'a', 0, $last, 9, $bytes],
        ];
        self::assertSame([9], StageSensitivity::stragglers(new JobModel($run($alike(19))), range(0, 9)));
        self::assertSame([], StageSensitivity::stragglers(new JobModel($run($alike(18))), range(0, 9)), '1.8 times is the limit');
        self::assertTrue(StageSensitivity::isSkewed($run($alike(10, 400)), range(0, 9)));
        self::assertFalse(StageSensitivity::isSkewed($run($alike(10, 399)), range(0, 9)));
        self::assertFalse(StageSensitivity::isSkewed($run([['t', 'a', 0, 10, 0, 100]]), [0]));
        $retried = $alike(19);
        $retried[9] = ['last', 'a', 0, 19, 9, 100, 2];
        self::assertSame([], StageSensitivity::stragglers(new JobModel($run($retried)), range(0, 9)), 'half of it was lost to a retry');
    }

    public function test_what_a_better_stage_saves_is_what_scheduling_again_gives(): void
    {
        // Two tasks of 10 s beside one of 40 s with a retry, then one of 5 s.
        $run = Jobs::run([new Stage('a', 'a'), new Stage('b', 'b'), new Stage('c', 'c', ['a', 'b'])], [
            ['a1', 'a', 0, 10, 0, 100], ['a2', 'a', 0, 10, 1, 100], ['b1', 'b', 0, 40, 2, 100, 2], ['c1', 'c', 40, 45, 0, 100],
        ], 3);
        $found = StageSensitivity::of(new JobModel($run), 3, 0.5);
        self::assertEquals(
            [
                'less 1' => [25.0, 20.0, 20.0],
                'retries -1' => [25.0, 20.0, 20.0],
                'less 2' => [42.5, 2.5, 2.5],
                'less 0' => [45.0, 0.0, 10.0],
            ],
            array_combine(
                array_map(static fn (WhatIf $one): string => "{$one->kind} {$one->stage}", self::sorted($found)),
                array_map(
                    static fn (WhatIf $one): array => [$one->timeUs / self::S, $one->savedUs / self::S, $one->workSavedUs / self::S],
                    self::sorted($found),
                ),
            ),
            'the stage beside the longest way may be halved for nothing',
        );
        self::assertEquals([20.0, 20.0, 2.5, 0.0], array_map(static fn (WhatIf $one): float => $one->savedUs / self::S, $found));
    }

    public function test_chances_are_never_quite_none_or_certain_and_grow_with_the_time(): void
    {
        $random = new Randomizer(new Mt19937(8));
        $tasks = array_map(static fn (int $i): array => ["t{$i}", 'a', 0, 5 + $random->getInt(0, 10), $i % 8, 100], range(0, 59));
        $model = new JobModel(Jobs::run([new Stage('a', 'a')], $tasks, 8));
        $curve = ScalingCurve::of($model);
        $draws = 20;
        $distribution = RuntimeDistribution::of($model, $curve, $random, $draws, 5);
        self::assertSame($distribution->workers, array_values(array_unique($distribution->workers)));
        self::assertContains(8, $distribution->workers, 'the number it was recorded with is one of them');
        $before = 0.0;
        foreach ([0.0, 0.8, 0.9, 0.95, 1.0, 1.05, 1.1, 1.3, 9.0] as $factor) {
            $chance = $distribution->chance($curve, 8, $factor * $curve->timeUs(8));
            self::assertGreaterThanOrEqual($before, $chance);
            $before = $chance;
        }
        self::assertEqualsWithDelta(0.5 / ($draws + 1), $distribution->chance($curve, 8, 0.0), 1e-12);
        self::assertEqualsWithDelta(($draws + 0.5) / ($draws + 1), $before, 1e-12);
        self::assertEqualsWithDelta($curve->timeUs(8) * $distribution->factor(8, 0.5), $distribution->timeUs($curve, 8, 0.5), 1e-6);
        foreach ($distribution->factors as $factors) {
            $sorted = $factors;
            sort($sorted);
            self::assertSame($sorted, $factors);
            self::assertCount($draws, $factors);
        }
        // Between two numbers of workers the factor lies between theirs.
        [$low, $high] = [$distribution->workers[0], $distribution->workers[1]];
        $between = $distribution->factor(max($low, intdiv($low + $high, 2)), 0.5);
        $ends = [$distribution->factor($low, 0.5), $distribution->factor($high, 0.5)];
        self::assertGreaterThanOrEqual(min($ends), $between);
        self::assertLessThanOrEqual(max($ends), $between);
        $last = $distribution->workers[count($distribution->workers) - 1];
        self::assertSame($distribution->factor($last, 0.5), $distribution->factor(10 * $last, 0.5));
    }

    /**
     * @return iterable<string, array{list<array{int, int}>, int}> workers and time of the front, place of the bend
     */
    public static function fronts(): iterable
    {
        yield 'one' => [[[4, 100]], 0];
        yield 'two' => [[[1, 100], [4, 90]], 0];
        yield 'a sharp one' => [[[1, 1_000], [10, 110], [20, 100]], 1];
        yield 'straight' => [[[1, 300], [2, 200], [6, 100]], 1];
        yield 'nothing is won' => [[[1, 100], [2, 99], [3, 98]], 0];
    }

    /**
     * @param  list<array{int, int}>  $front
     */
    #[DataProvider('fronts')]
    public function test_a_front_bends_where_it_is_farthest_from_its_chord(array $front, int $at): void
    {
        self::assertSame($at, WorkerRecommendations::bend(array_map(
            static fn (array $point): CurvePoint => new CurvePoint($point[0], $point[1], 0.0),
            $front,
        )));
    }

    public function test_worker_hours_are_workers_by_hours(): void
    {
        self::assertSame(6.0, (new CurvePoint(4, 5_400 * self::S, 0.0))->workerHours());
        self::assertSame(1.5, (new ElasticPlan([[0, 1]], 1, 5_400 * self::S, 1))->workerHours());
    }

    /**
     * @param  list<WhatIf>  $found
     * @return list<WhatIf> in an order that does not depend on which of two that save the same comes first
     */
    private static function sorted(array $found): array
    {
        usort($found, static fn (WhatIf $a, WhatIf $b): int => [$b->savedUs, $a->kind, $a->stage] <=> [$a->savedUs, $b->kind, $b->stage]);

        return $found;
    }
}
