<?php

declare(strict_types=1);

namespace Tests\Core\Scheduling;

use Fulcrion\Core\Scheduling\Diagnoses;
use Fulcrion\Core\Scheduling\Diagnosis;
use Fulcrion\Core\Scheduling\JobModel;
use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Scheduling\RunFacts;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\Task;
use Fulcrion\Core\Scheduling\TaskState;
use Fulcrion\Core\Scheduling\TaskTable;
use Fulcrion\Core\Scheduling\WhatIf;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * Each diagnosis of a job just below and just above its limit, and whether somebody should act on it.
 */
final class DiagnosesLimitsTest extends TestCase
{
    /**
     * @return iterable<string, array{string, bool|null, RecordedRun, list<WhatIf>}> rule, whether to act; null where it does not apply
     */
    public static function limits(): iterable
    {
        // Tasks that take all of the run, on so many of ten workers.
        $used = static fn (int $at): RecordedRun => self::recorded(
            array_map(static fn (int $i): array => ['a', 0, 100, $i], range(0, $at - 1)),
            10,
        );
        yield 'nine of ten workers used' => ['never-used', null, $used(9), []];
        yield 'eight of ten' => ['never-used', false, $used(8), []];
        yield 'five of ten' => ['never-used', false, $used(5), []];
        yield 'four of ten' => ['never-used', true, $used(4), []];

        // Four workers are paid 400 s.
        $worked = static fn (int $rest): RecordedRun => self::recorded(
            [['a', 0, 100, 0], ['a', 0, min(100, $rest), 1], ...($rest > 100 ? [['a', 0, $rest - 100, 2]] : [])],
            4,
        );
        yield 'half of the time idle' => ['idle', null, $worked(100), []];
        yield 'more than half' => ['idle', false, $worked(99), []];
        yield 'nearly two thirds' => ['idle', false, $worked(40), []];
        yield 'more than two thirds idle' => ['idle', true, $worked(39), []];
        yield 'one worker is never idle' => ['idle', null, self::recorded([['a', 0, 10, 0], ['a', 90, 100, 0]], 1), []];

        // A stage of few tasks behind one of many.
        $few = static fn (int $tasks, int $last): RecordedRun => self::recorded(
            [
                ...array_map(static fn (int $i): array => ['a', 0, 100 - $last, $i], range(0, 9)),
                ...array_map(static fn (int $i): array => ['b', 100 - $last, 100, $i], range(0, $tasks - 1)),
            ],
            10,
            [new Stage('a', 'a'), new Stage('b', 'b', ['a'])],
        );
        yield 'four tasks for ten workers' => ['few-tasks', false, $few(4, 50), []];
        yield 'five tasks' => ['few-tasks', null, $few(5, 50), []];
        yield 'a single task' => ['few-tasks', null, $few(1, 50), []];
        yield 'for a seventh of the run' => ['few-tasks', null, $few(4, 15), []];
        yield 'for a little more' => ['few-tasks', false, $few(4, 16), []];

        // The last of eleven tasks, alone at the end.
        $alone = static fn (int $seconds, int $others = 10): RecordedRun => self::recorded(
            [['a', 0, 100, 0], ...array_map(static fn (int $i): array => ['a', 0, 100 - $seconds, $i], range(1, $others))],
            $others + 1,
        );
        yield 'alone for a twelfth' => ['alone-at-the-end', null, $alone(8), []];
        yield 'alone for more' => ['alone-at-the-end', false, $alone(9), []];
        yield 'alone for a fifth' => ['alone-at-the-end', false, $alone(20), []];
        yield 'alone for more than that' => ['alone-at-the-end', true, $alone(21), []];
        yield 'one of ten' => ['alone-at-the-end', null, $alone(50, 9), []];
        yield 'two at work are not alone' => ['alone-at-the-end', false, self::recorded(
            [['a', 0, 100, 0], ['a', 0, 90, 1], ...array_map(static fn (int $i): array => ['a', 0, 50, $i], range(2, 10))],
            11,
        ), []];

        // A narrow stage before another, of which one task after the other is on the longest way.
        $narrow = static fn (int $each): RecordedRun => self::recorded(
            [
                ...array_map(static fn (int $i): array => ['a', 0, 80, $i], range(0, 9)),
                ['b', 80, 80 + $each, 0], ['b', 100 - $each, 100, 1],
            ],
            10,
            [new Stage('a', 'a'), new Stage('b', 'b', ['a'])],
        );
        yield 'a tenth of the run on the longest way' => ['few-tasks', null, $narrow(10), []];
        yield 'a little more of it' => ['few-tasks', false, $narrow(11), []];

        // Two workers that take a second between tasks.
        $tiny = static function (int $task, int $gap, int $workers = 2): RecordedRun {
            $tasks = [];
            for ($i = 0; $i < 12; $i++) {
                $from = $gap + $i * ($task + $gap);
                array_push($tasks, ['a', $from, $from + $task, 0], ['a', $from, $from + $task, 1]);
            }

            return self::recorded($tasks, $workers);
        };
        yield 'a sixth is overhead' => ['tiny-tasks', null, $tiny(5, 1), []];
        yield 'a fifth is overhead' => ['tiny-tasks', false, $tiny(4, 1), []];
        yield 'two fifths' => ['tiny-tasks', true, $tiny(3, 2), []];
        yield 'no more tasks than workers' => ['tiny-tasks', null, $tiny(3, 2, 24), []];

        // Workers whose first task begins so late.
        $late = static fn (int $seconds): RecordedRun => self::recorded(
            [['a', $seconds, 100, 0], ['a', $seconds, 100, 1], ['a', $seconds, 100, 2]],
            3,
        );
        yield 'a tenth to start' => ['long-start', null, $late(10), []];
        yield 'more than a tenth to start' => ['long-start', false, $late(11), []];

        // Bytes put aside against bytes read.
        $spilled = static fn (int $read, int $aside): RecordedRun => self::recorded([['a', 0, 100, 0, $read, $aside]], 1);
        yield 'a tenth put aside' => ['spill', null, $spilled(1000, 100), []];
        yield 'more than a tenth put aside' => ['spill', false, $spilled(1000, 101), []];
        yield 'as much as was read' => ['spill', false, $spilled(1000, 1000), []];
        yield 'more than was read' => ['spill', true, $spilled(1000, 1001), []];
        yield 'nothing' => ['spill', null, $spilled(0, 0), []];

        // The same input read by two stages, the second of which takes so much of all work.
        $again = static fn (int $second, string $input = 'field.pick'): RecordedRun => self::recorded(
            [['a', 0, 970, 0], ['b', 970, 970 + $second, 0]],
            1,
            [new Stage('a', 'a', [], 'field.pick'), new Stage('b', 'b', ['a'], $input)],
        );
        yield 'three hundredths again' => ['read-again', null, $again(30), []];
        yield 'a little more' => ['read-again', false, $again(31), []];
        yield 'another input' => ['read-again', null, $again(500, 'field.bay'), []];
        yield 'inputs nobody named' => ['read-again', null, self::recorded([['a', 0, 9, 0], ['b', 9, 18, 0]], 1, [
            new Stage('a', 'a'), new Stage('b', 'b', ['a']),
        ]), []];

        // What the model would save, of a run of 100 s.
        $saves = static fn (string $kind, int $us): array => [new WhatIf($kind, 0, 100_000_000 - $us, $us, 0)];
        yield 'even parts would save three hundredths' => ['skew', null, $used(9), $saves('even', 3_000_000)];
        yield 'a little more than three hundredths' => ['skew', false, $used(9), $saves('even', 3_000_001)];
        yield 'a tenth' => ['skew', false, $used(9), $saves('even', 10_000_000)];
        yield 'more than a tenth of it' => ['skew', true, $used(9), $saves('even', 10_000_001)];
        yield 'another stage would' => ['skew', null, $used(9), [new WhatIf('even', 1, 1, 99_000_000, 0)]];
    }

    /**
     * @param  list<WhatIf>  $push
     */
    #[DataProvider('limits')]
    public function test_a_diagnosis_begins_at_its_limit(string $rule, ?bool $act, RecordedRun $run, array $push): void
    {
        $found = array_values(array_filter(
            Diagnoses::of(new JobModel($run), RunFacts::of($run), $push),
            static fn (Diagnosis $one): bool => $one->rule === $rule,
        ));
        self::assertSame($act === null ? [] : [$act], array_column($found, 'act'), $found[0]->problem ?? '');
    }

    public function test_slow_tasks_are_told_with_the_worker_they_were_on(): void
    {
        // Forty tasks of 10 s on ten workers, four of them four times as long: all on one, or one on each of four.
        $of = static function (callable $isSlow, string $host = 'w'): RecordedRun {
            $tasks = [];
            for ($worker = 0; $worker < 10; $worker++) {
                for ($i = 0, $at = 0; $i < 4; $i++) {
                    $took = $isSlow($worker, $i) ? 40 : 10;
                    $tasks[] = ['a', $at, $at + $took, $worker, 1_000];
                    $at += $took;
                }
            }

            return self::recorded($tasks, 10, [], array_map(static fn (int $i): string => $host.$i, range(0, 9)));
        };
        $told = static function (RecordedRun $run): Diagnosis {
            $saved = [new WhatIf('stragglers', 0, 1, (int) (0.04 * $run->elapsedUs()), 0)];
            foreach (Diagnoses::of(new JobModel($run), RunFacts::of($run), $saved) as $one) {
                if ($one->rule === 'stragglers') {
                    return $one;
                }
            }
            self::fail('no stragglers');
        };
        $here = $told($of(static fn (int $worker): bool => $worker === 3));
        self::assertTrue($here->act, 'whatever it saves: there is something to look at');
        self::assertSame(
            '4 of 40 tasks of a took at least 1.8 times what others with as much to read took, 4 of them on worker w3',
            $here->problem,
        );
        self::assertSame(
            [
                ['slowest', '40 s'], ['middle one', '10 s'], ['where', 'worker w3 had 4 of 4 of them, and 4 of all 40 tasks'],
                ['without them the job would end sooner by', '6.4 s'],
            ],
            $here->evidence,
        );
        self::assertSame('Look at worker w3; until it is fixed, keep tasks off it.', $here->remedy);
        // Workers of two hosts: one for each of four of five.
        $host = $told($of(static fn (int $worker, int $i): bool => $worker < 4 && $i === 2, 'bay-'));
        self::assertFalse($host->act, 'all are of one host');
        $everywhere = $told($of(static fn (int $worker, int $i): bool => $worker < 4 && $i === 2));
        self::assertFalse($everywhere->act);
        self::assertStringEndsWith('what others with as much to read took', $everywhere->problem);
        self::assertSame(['where', 'none stands out'], $everywhere->evidence[2]);
        // Three are no pattern, and neither are four of a worker that did most of the work.
        $three = $told($of(static fn (int $worker, int $i): bool => $worker === 3 && $i > 0));
        self::assertSame(['where', 'none stands out'], $three->evidence[2]);
    }

    public function test_what_to_act_on_comes_first(): void
    {
        $run = self::recorded(array_map(static fn (int $i): array => ['a', 11, 100, $i], range(0, 3)), 10);
        $acts = array_column(Diagnoses::of(new JobModel($run), RunFacts::of($run), []), 'act');
        $sorted = $acts;
        rsort($sorted);
        self::assertSame($sorted, $acts);
        self::assertContains(true, $acts);
        self::assertContains(false, $acts);
    }

    /**
     * @param  list<array{0: string, 1: int, 2: int, 3: int, 4?: int, 5?: int}>  $tasks stage, from and to in seconds, worker, bytes read,
     *     bytes put aside
     * @param  list<Stage>  $stages
     * @param  list<string>  $names of workers
     */
    private static function recorded(array $tasks, int $workers, array $stages = [], array $names = []): RecordedRun
    {
        $stages = $stages === [] ? [new Stage('a', 'a')] : $stages;
        $number = array_flip(array_map(static fn (Stage $stage): string => $stage->id, $stages));
        $table = new TaskTable();
        $end = 0;
        foreach ($tasks as $i => $of) {
            [$stage, $from, $to, $worker] = $of;
            $table->add(
                new Task(
                    "t{$i}",
                    $stage,
                    null,
                    null,
                    -1,
                    Jobs::START + $from * 1_000_000,
                    Jobs::START + $to * 1_000_000,
                    "w{$worker}",
                    1,
                    TaskState::Done,
                    ['bytes_read' => $of[4] ?? 0, 'bytes_spilled' => $of[5] ?? 0],
                ),
                $number[$stage],
                $worker,
                null,
                null,
            );
            $end = max($end, $to);
        }

        return RecordedRun::of(Jobs::head($workers, $end), $stages, $table, $names);
    }
}
