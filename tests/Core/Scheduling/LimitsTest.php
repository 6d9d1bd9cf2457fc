<?php

declare(strict_types=1);

namespace Tests\Core\Scheduling;

use Fulcrion\Core\Scheduling\Diagnoses;
use Fulcrion\Core\Scheduling\Elastic;
use Fulcrion\Core\Scheduling\ElasticPlan;
use Fulcrion\Core\Scheduling\Formats\SpanReader;
use Fulcrion\Core\Scheduling\Formats\TraceEvents;
use Fulcrion\Core\Scheduling\JobHead;
use Fulcrion\Core\Scheduling\JobModel;
use Fulcrion\Core\Scheduling\JobState;
use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Scheduling\RunFacts;
use Fulcrion\Core\Scheduling\RuntimeDistribution;
use Fulcrion\Core\Scheduling\ScalingCurve;
use Fulcrion\Core\Scheduling\Scheduler;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\Task;
use Fulcrion\Core\Scheduling\TaskGraph;
use Fulcrion\Core\Scheduling\TaskOrder;
use Fulcrion\Core\Scheduling\TaskState;
use Fulcrion\Core\Scheduling\TaskTable;
use OverflowException;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Records at their edges: nothing started, clocks at nought, numbers nobody gave.
 */
final class LimitsTest extends TestCase
{
    private const S = 1_000_000;

    public function test_a_job_may_begin_when_the_clock_is_at_nought(): void
    {
        $table = new TaskTable();
        $table->add(new Task('1', 'a', null, null, -1, 0, 4 * self::S, 'w', 1, TaskState::Done, ['bytes_read' => 0]), 0, 0, null, null);
        $table->add(new Task('2', 'a', null, null, -1, self::S, -1, 'v', 1, TaskState::Running, []), 0, 1, null, null);
        $table->add(new Task('3', 'a', null, null, -1, -1, -1, '', 1, TaskState::Waiting, []), 0, -1, null, null);
        $run = RecordedRun::of(self::head(-1, -1), [new Stage('a', 'a')], $table);
        self::assertSame([0, 4 * self::S], [$run->startUs, $run->endUs], 'from its tasks, where it does not say itself');
        $facts = RunFacts::of($run);
        self::assertSame(7 * self::S, $facts->times->workUs);
        $sum = $facts->stages[0];
        self::assertSame([3, 1, 0, 7 * self::S, 4 * self::S, 0, 4 * self::S], [
            $sum['tasks'], $sum['done'], $sum['failed'], $sum['workUs'], $sum['slowestUs'], $sum['firstUs'], $sum['lastUs'],
        ]);
        // What ended after four, is at work for three, and is expected to take four as well.
        self::assertEqualsWithDelta(7 / 4, $facts->meanParallelism(), 1e-9);
        $events = iterator_to_array(TraceEvents::of($run), false);
        self::assertSame(['M', 'X', 'X'], array_column($events, 'ph'), 'what did not start is no event');
        self::assertSame(['state' => 'done', 'attempts' => 1, 'bytes_read' => 0], $events[1]['args']);
        self::assertSame(['state' => 'running', 'attempts' => 1], $events[2]['args'], 'what is not known is left out');
        self::assertSame([0, 4 * self::S, self::S, 3 * self::S], [
            $events[1]['ts'], $events[1]['dur'], $events[2]['ts'], $events[2]['dur'],
        ]);
    }

    public function test_a_job_of_which_nothing_started_takes_no_time(): void
    {
        $table = new TaskTable();
        $table->add(new Task('1', 'a', null, null, -1, -1, -1, '', 1, TaskState::Waiting, []), 0, -1, null, null);
        $run = RecordedRun::of(self::head(-1, -1), [new Stage('a', 'a')], $table);
        self::assertSame([0, 0, 0], [$run->startUs, $run->endUs, $run->elapsedUs()]);
        $facts = RunFacts::of($run);
        self::assertSame([0.0, 0.0, 0], [$facts->meanParallelism(), $facts->workerHours(), $facts->times->workUs]);
        self::assertSame(0.0, (new JobModel($run))->fitError());
    }

    public function test_figures_of_a_span_are_whole_numbers_from_nought_on(): void
    {
        $span = static fn (string $attribute, mixed $value): array => [
            'spanId' => '0102030405060708', 'name' => 'x', 'startTimeUnixNano' => 5_000, 'endTimeUnixNano' => 9_000,
            'attributes' => [['key' => $attribute, 'value' => $value]],
        ];
        $figures = static function (array $span): array {
            $task = (new SpanReader())->task($span, [], '', '');
            self::assertInstanceOf(Task::class, $task);

            return $task->figures;
        };
        self::assertSame(['rows_read' => 0], $figures($span('task.rows_read', ['intValue' => '0'])));
        self::assertSame(['lost_us' => 12], $figures($span('task.lost_us', ['intValue' => 12])));
        self::assertSame([], $figures($span('task.rows_read', ['intValue' => '-1'])));
        self::assertSame([], $figures($span('task.rows_read', ['stringValue' => '12'])));
        self::assertSame([], $figures($span('task.rows', ['intValue' => '12'])));
        $queued = static function (mixed $value) use ($span): int {
            $task = (new SpanReader())->task($span('task.queued_unix_nano', $value), [], '', '');
            self::assertInstanceOf(Task::class, $task);

            return $task->queuedUs;
        };
        self::assertSame([4, -1, -1, -1], [
            $queued(['intValue' => '4999']), $queued(['intValue' => 0]), $queued(['stringValue' => '']), $queued(['stringValue' => 'x']),
        ]);
        self::assertSame(
            [0, 0, 12, null, null, 1, null, 1, null, null, 999_999_999_999_999_9],
            array_map(SpanReader::microseconds(...), [
                null, '', '12999', '12a999', '-1000', 1_999, -1, 1_999.0, -1.0, '12345678901234567890', '9999999999999999000',
            ]),
        );
        self::assertSame('', SpanReader::id(['spanId' => 'not base64!']));
        self::assertSame('', SpanReader::id(['spanId' => 7]));
        self::assertSame('aabbccddeeff0011', SpanReader::id(['spanId' => 'AABBCCDDEEFF0011']));
    }

    public function test_an_order_nobody_recorded_is_that_of_the_record(): void
    {
        $graph = TaskGraph::edges(4, 4, [], []);
        $durations = [4, 3, 2, 1];
        $starts = static fn (TaskOrder $order, array $recorded): array => (new Scheduler(
            $graph,
            $durations,
            $order,
            array_values($recorded),
        ))
            ->run(1, true)->starts;
        self::assertSame([0, 4, 7, 9], $starts(TaskOrder::Recorded, []));
        self::assertSame([0, 4, 7, 9], $starts(TaskOrder::Recorded, [9, 9]), 'one that is not whole is none');
        self::assertSame([6, 3, 1, 0], $starts(TaskOrder::Recorded, [9, 8, 7, 6]));
        self::assertSame([0, 4, 7, 9], $starts(TaskOrder::Recorded, [5, 5, 5, 5]), 'of equals the first');
        self::assertSame([0, 4, 7, 9], $starts(TaskOrder::LongestPath, []));
    }

    public function test_workers_come_as_a_sample_of_them_did(): void
    {
        // Four took 1 to 4 s; of three the first is like the first of them, the others like the third and the fourth.
        $run = static fn (int $workers): array => (new Scheduler(
            TaskGraph::edges(3, 3, [], []),
            [10, 10, 10],
            TaskOrder::FirstReady,
            [],
            [1, 2, 3, 4],
        ))->run($workers, true)->starts;
        self::assertSame([[1, 3, 4], [2, 4, 12]], [$run(3), $run(2)]);
    }

    public function test_workers_that_come_later_are_paid_while_they_start(): void
    {
        // One task of 10 s, then four side by side: in 20 s that takes one worker for 10 s, and then four.
        $tasks = [['a0', 'a', 0, 10, 0]];
        for ($i = 0; $i < 4; $i++) {
            $tasks[] = ["b{$i}", 'b', 10, 20, $i];
        }
        $model = new JobModel(Jobs::run([new Stage('a', 'a'), new Stage('b', 'b', ['a'])], $tasks, 4));
        $plan = static fn (int $step, int $delayS): ?ElasticPlan => (new Elastic(
            $model,
            ScalingCurve::of($model),
            $step,
            $delayS * self::S,
            10 * self::S,
        ))->plan(20 * self::S);
        self::assertSame([[[0, 1], [10 * self::S, 4]], 50 * self::S], [$plan(1, 0)?->levels, $plan(1, 0)?->paidUs]);
        self::assertSame((50 + 3 * 2) * self::S, $plan(1, 2)?->paidUs, 'three of them two seconds before');
        self::assertSame([[[0, 2], [10 * self::S, 4]], (20 + 40 + 2 * 2) * self::S], [$plan(2, 2)?->levels, $plan(2, 2)?->paidUs]);
        self::assertSame(80 * self::S, $plan(4, 2)?->paidUs, 'in groups of four there is nothing to change');
        self::assertSame(80 * self::S, $plan(1, 20)?->paidUs, 'nor where starting costs more than it saves');
    }

    public function test_no_more_numbers_of_workers_are_reckoned_through_than_asked_for(): void
    {
        $points = static fn (int $tasks): int => count(ScalingCurve::of(new JobModel(Jobs::run(
            [new Stage('a', 'a')],
            array_map(static fn (int $i): array => ["t{$i}", 'a', 0, 10, $i], range(0, $tasks - 1)),
            4,
        )))->points());
        self::assertSame([1, 36], [$points(1), $points(36)]);
        self::assertLessThanOrEqual(36, $points(37));
    }

    public function test_more_time_than_can_be_reckoned_with_is_refused(): void
    {
        $graph = TaskGraph::edges(2, 2, [], []);
        $run = static fn (int $task, int $startUp): int => (new Scheduler($graph, [$task, $task], TaskOrder::FirstReady, [], [$startUp]))
            ->run(1)->makespanUs;
        self::assertSame(2 * 10 ** 12 + 10 ** 9, $run(10 ** 12, 10 ** 9));
        foreach ([[PHP_INT_MAX >> 2, 0], [1, PHP_INT_MAX >> 1]] as [$task, $startUp]) {
            try {
                $run($task, $startUp);
                self::fail('a makespan that wraps around');
            } catch (OverflowException $refused) {
                self::assertStringContainsString('longer together', $refused->getMessage());
            }
        }
    }

    public function test_bad_luck_is_drawn_as_often_as_it_was_met(): void
    {
        $share = static function (array $stages, array $tasks, string $stage): float {
            $run = Jobs::run(array_values($stages), array_values($tasks));
            $model = new JobModel($run);
            $random = new Randomizer(new Mt19937(11));
            [$long, $all] = [0, 0];
            for ($i = 0; $i < 200; $i++) {
                foreach ($model->drawn($random) as $task => $us) {
                    if ($run->stages[$run->table->stage[$task]]->id === $stage) {
                        $all++;
                        $long += $us > 20 * self::S ? 1 : 0;
                    }
                }
            }

            return $long / $all;
        };
        $tasks = [];
        for ($i = 0; $i < 60; $i++) {
            $tasks[] = ["t{$i}", 'a', 0, $i < 12 ? 100 : 10, $i, 1_000];
        }
        // Twelve of sixty.
        self::assertEqualsWithDelta(0.2, $share([new Stage('a', 'a')], $tasks, 'a'), 0.02);
        // A stage that met none has its part of what the whole job met: twelve of eighty.
        for ($i = 0; $i < 20; $i++) {
            $tasks[] = ["u{$i}", 'b', 0, 10, 60 + $i, 1_000];
        }
        $stages = [new Stage('a', 'a'), new Stage('b', 'b', ['a'])];
        self::assertEqualsWithDelta(0.2, $share($stages, $tasks, 'a'), 0.02);
        self::assertEqualsWithDelta(0.15, $share($stages, $tasks, 'b'), 0.03);
        // Seven of a stage may be chance: it has the part of the whole job too.
        $seven = array_filter($tasks, static fn (array $task): bool => ! in_array($task[0], ['t0', 't1', 't2', 't3', 't4'], true));
        self::assertEqualsWithDelta(7 / 75, $share($stages, array_values($seven), 'a'), 0.02);
        self::assertSame(0.0, $share([new Stage('a', 'a')], array_slice($tasks, 12, 48), 'a'));
    }

    public function test_chances_are_drawn_at_numbers_of_workers_from_few_to_all(): void
    {
        $random = new Randomizer(new Mt19937(12));
        $tasks = array_map(static function (int $i) use ($random): array {
            $seconds = 5 + $random->getInt(0, 20);

            return ["t{$i}", 'a', 0, $seconds + $random->getInt(0, 2), $i, 1_000 * $seconds];
        }, range(0, 79));
        $model = new JobModel(Jobs::run([new Stage('a', 'a')], $tasks, 16));
        $curve = ScalingCurve::of($model);
        $of = static fn (float $deviation, int $places = 7): RuntimeDistribution => RuntimeDistribution::of(
            $model,
            $curve,
            new Randomizer(new Mt19937(13)),
            24,
            $places,
            [1.0, $deviation],
        );
        $known = $of(0.0);
        $expected = [16];
        foreach ([2, 3, 4, 5, 6, 7, 8] as $eighths) {
            $expected[] = (int) round($curve->ceiling ** ($eighths / 8));
        }
        $expected = array_values(array_unique($expected));
        sort($expected);
        self::assertSame($expected, $known->workers, 'evenly by their order of magnitude, from the fourth root');
        self::assertContains((int) round($curve->ceiling ** 0.25), $of(0.0, 1)->workers);
        // Not knowing how much there will be to read widens what may come.
        $spread = static fn (RuntimeDistribution $one): float => $one->factor(16, 0.9) - $one->factor(16, 0.1);
        self::assertGreaterThan(2 * $spread($known), $spread($of(0.8)));
    }

    public function test_the_evidence_of_tiny_tasks_is_what_was_counted(): void
    {
        $tasks = [];
        for ($i = 0; $i < 12; $i++) {
            array_push($tasks, ["a{$i}", 'a', 2 + 5 * $i, 5 + 5 * $i, 0], ["b{$i}", 'a', 2 + 5 * $i, 5 + 5 * $i, 1]);
        }
        $run = Jobs::run([new Stage('a', 'fold')], $tasks, 2);
        foreach (Diagnoses::of(new JobModel($run), RunFacts::of($run), []) as $one) {
            if ($one->rule === 'tiny-tasks') {
                self::assertSame('40% of each task of fold is overhead: 24 tasks of 3 s', $one->problem);
                self::assertSame(
                    ['2 s, estimated from gaps on workers', '3 s', '48 s of worker time'],
                    array_column($one->evidence, 1),
                );

                return;
            }
        }
        self::fail('nothing was said of them');
    }

    private static function head(int $startedUs, int $endedUs): JobHead
    {
        return new JobHead('r', 'j', 'g', 'c', $startedUs, $startedUs, $endedUs, JobState::Running, '', 0, null, '', -1, true);
    }
}
