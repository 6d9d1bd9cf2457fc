<?php

declare(strict_types=1);

namespace Tests\Core\Scheduling;

use Fulcrion\Core\Scheduling\Diagnoses;
use Fulcrion\Core\Scheduling\Diagnosis;
use Fulcrion\Core\Scheduling\Formats\HeadReader;
use Fulcrion\Core\Scheduling\Formats\JobDocument;
use Fulcrion\Core\Scheduling\Formats\SpanReader;
use Fulcrion\Core\Scheduling\Formats\TraceEvents;
use Fulcrion\Core\Scheduling\InputTrend;
use Fulcrion\Core\Scheduling\JobModel;
use Fulcrion\Core\Scheduling\JobProblem;
use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Scheduling\Regression;
use Fulcrion\Core\Scheduling\RunFacts;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\StageChange;
use Fulcrion\Core\Scheduling\StageSensitivity;
use Fulcrion\Core\Scheduling\Task;
use Fulcrion\Core\Scheduling\TaskReader;
use Fulcrion\Core\Scheduling\TaskState;
use Fulcrion\Core\Scheduling\TaskTable;
use Fulcrion\Core\Text\JsonError;
use Fulcrion\Core\Text\JsonStream;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * What is read of a record, and what is said of it, by hand.
 */
final class RecordTest extends TestCase
{
    public function test_facts_of_a_small_run(): void
    {
        // Two workers of three, 0 to 30 s: r0 2-12 and r1 3-9 at once, then f0 12-28 alone, tried twice.
        $run = Jobs::run(
            [new Stage('read', 'read'), new Stage('fold', 'fold', ['read'])],
            [['r0', 'read', 2, 12, 0, 1000], ['r1', 'read', 3, 9, 1, 500], ['f0', 'fold', 13, 29, 0, 0, 2]],
            3,
            0.2,
        );
        $facts = RunFacts::of($run);
        self::assertSame(
            [3, 3, 32_000_000, 26_000_000, 29_000_000],
            [$facts->counts->tasks, $facts->counts->done, $facts->times->workUs, $facts->times->spanUs, $facts->times->elapsedUs],
        );
        self::assertSame([0, 2], $facts->path);
        self::assertEqualsWithDelta(1 - 32 / 87, $facts->workers->idleShare, 1e-9);
        self::assertSame(
            [2, 2, 1, 8_000_000],
            [$facts->workers->width, $facts->workers->mostUsed, $facts->counts->retries, $facts->times->lostUs],
            'two attempts without a time lost count half',
        );
        self::assertSame(6_000_000, $facts->times->queueUs, '2 and 3 until the first tasks, 1 before the last');
        self::assertSame(
            [1_000_000, 2_000_000],
            $run->startUpUs,
            'what workers took until their first task, without the gap of one second between two',
        );
        self::assertSame(1_000_000, $run->overheadUs);
        self::assertSame(1500, $run->inputBytes());
    }

    public function test_a_record_without_dependencies_is_inferred_by_when_stages_ran(): void
    {
        $run = Jobs::run(
            [new Stage('c', 'c'), new Stage('a', 'a'), new Stage('b', 'b'), new Stage('d', 'd')],
            [['c0', 'c', 21, 30, 0], ['a0', 'a', 0, 10, 0], ['a1', 'a', 0, 8, 1], ['b0', 'b', 10, 20, 0], ['d0', 'd', 12, 20, 1]],
        );
        self::assertTrue($run->inferred);
        self::assertEqualsCanonicalizing(['b', 'd'], $run->stages[0]->after, 'not a: both others wait for it');
        self::assertSame([[], ['a'], ['a']], [$run->stages[1]->after, $run->stages[2]->after, $run->stages[3]->after]);
        self::assertSame([], $run->graph->cycle());
        $still = Jobs::run([new Stage('a', 'a'), new Stage('b', 'b')], [['a0', 'a', 5, 5, 0], ['b0', 'b', 5, 5, 0]]);
        self::assertSame([], $still->graph->cycle(), 'tasks of no length at one moment are in no circle');
        self::assertSame(5_000_000, (new JobModel($still))->timeUs(1), 'a worker that starts, and nothing to do');
    }

    public function test_clocks_that_differ_and_workers_that_do_two_things_are_noticed(): void
    {
        $facts = RunFacts::of(
            Jobs::run(
                [new Stage('a', 'a'), new Stage('b', 'b', ['a'])],
                [['a0', 'a', 0, 10, 0], ['b0', 'b', 7, 12, 1], ['b1', 'b', 11, 15, 1]],
            ),
        );
        self::assertSame([1, 3_000_000, 'b0'], [$facts->clocks->early, $facts->clocks->earliestUs, $facts->clocks->earliestTask]);
        self::assertSame([1, 'b1'], [$facts->clocks->overlapping, $facts->clocks->overlapTask]);
    }

    public function test_failed_and_open_tasks_are_scheduled_with_the_middle_time_of_their_stage(): void
    {
        $table = new TaskTable();
        foreach (
            [
                [0, 10, TaskState::Done],
                [0, 20, TaskState::Done],
                [0, 12, TaskState::Failed],
                [3, -1, TaskState::Running],
                [-1, -1, TaskState::Waiting],
            ] as $i => [$from, $to, $state]
        ) {
            $table->add(
                new Task(
                    "t{$i}",
                    'a',
                    null,
                    null,
                    -1,
                    $from < 0 ? -1 : Jobs::START + $from * 1_000_000,
                    $to < 0 ? -1 : Jobs::START + $to * 1_000_000,
                    'w',
                    1,
                    $state,
                    [],
                ),
                0,
                $i,
                null,
                null,
            );
        }
        $run = RecordedRun::of(Jobs::head(5, 20, null), [new Stage('a', 'a')], $table);
        self::assertSame([10_000_000, 20_000_000, 12_000_000, 12_000_000, 12_000_000], $run->durationsUs);
        self::assertSame(2, $run->guessed);
    }

    public function test_a_hot_stage_that_does_not_matter_is_told_from_a_small_one_that_does(): void
    {
        // "side" is most of the work, but beside "chain", which alone keeps the end waiting.
        $tasks = [['c0', 'chain', 0, 40, 0, 100], ['e0', 'end', 40, 45, 0, 100]];
        for ($i = 0; $i < 9; $i++) {
            $tasks[] = ["s{$i}", 'side', 0, 20, $i + 1, 100];
        }
        $run = Jobs::run([new Stage('chain', 'chain'), new Stage('side', 'side'), new Stage('end', 'end', ['chain', 'side'])], $tasks, 10);
        $push = StageSensitivity::of(new JobModel($run), 10, 0.25);
        self::assertSame(['less', 0, 10_000_000], [$push[0]->kind, $push[0]->stage, $push[0]->savedUs]);
        $side = array_values(array_filter($push, static fn ($one): bool => $one->stage === 1));
        self::assertSame(0, $side[0]->savedUs);
        self::assertSame(45_000_000, $side[0]->workSavedUs);
    }

    public function test_skew_and_stragglers_are_told_apart_and_healthy_stages_are_not_accused(): void
    {
        $tasks = [];
        for ($i = 0; $i < 40; $i++) {
            $tasks[] = ["e{$i}", 'even', 0, 10, $i, 1_000_000];
            // One reads ten times as much and takes ten times as long.
            $tasks[] = ["s{$i}", 'skewed', 10, $i === 7 ? 110 : 20, $i, $i === 7 ? 10_000_000 : 1_000_000];
            // Three on one host take four times as long for as much.
            $tasks[] = ["l{$i}", 'late', 110, $i % 10 === 3 ? 150 : 120, $i, 1_000_000];
        }
        $stages = [new Stage('even', 'even'), new Stage('skewed', 'skewed', ['even']), new Stage('late', 'late', ['skewed'])];
        $plain = Jobs::run($stages, $tasks, 40);
        $names = array_map(static fn (int $i): string => $i % 10 === 3 ? "slow-{$i}" : "host{$i}-1", range(0, 39));
        $run = RecordedRun::of($plain->head, $stages, $plain->table, $names);
        $model = new JobModel($run);
        $found = Diagnoses::of($model, RunFacts::of($run), StageSensitivity::of($model, 40));
        $byRule = [];
        foreach ($found as $one) {
            $byRule[$one->rule][] = $one->stage;
        }
        self::assertSame([1], $byRule['skew'] ?? []);
        self::assertSame([2], $byRule['stragglers'] ?? []);
        $late = array_values(array_filter($found, static fn (Diagnosis $one): bool => $one->rule === 'stragglers'))[0];
        self::assertStringContainsString('4 of them on slow', $late->problem);
        self::assertArrayHasKey('idle', $byRule);
        self::assertArrayNotHasKey('spill', $byRule);
        self::assertArrayNotHasKey('tiny-tasks', $byRule);
        self::assertArrayNotHasKey('read-again', $byRule);
    }

    public function test_bad_fields_are_told_with_task_field_and_remedy(): void
    {
        $reader = new TaskReader();
        foreach (
            [
                [[], 'id'],
                [['id' => 'a', 'started_at' => 'noon'], 'started_at'],
                [['id' => 'a', 'ended_at' => 5], 'started_at'],
                [['id' => 'a', 'started_at' => 9, 'ended_at' => 5], 'ended_at'],
                [['id' => 'a', 'state' => 'lost'], 'state'],
                [['id' => 'a', 'state' => 'done', 'started_at' => 1], 'ended_at'],
                [['id' => 'a', 'bytes_read' => -1], 'bytes_read'],
                [['id' => 'a', 'attempts' => 'x'], 'attempts'],
                [['id' => 'a', 'after' => [[]]], 'after'],
                [['id' => str_repeat('x', 191)], 'id'],
            ] as [$record, $field]
        ) {
            $problem = $reader->task($record, 'line 3');
            self::assertInstanceOf(JobProblem::class, $problem, (string) json_encode($record));
            self::assertSame($field, $problem->field);
            self::assertTrue($problem->refuses);
            self::assertStringStartsWith('line 3: ', $problem->sentence());
            self::assertStringEndsWith('.', $problem->sentence());
        }
        $task = $reader->task(
            [
                'id' => 7,
                'stage' => 's',
                'started_at' => '2026-11-20T01:00:00.5Z',
                'ended_at' => 1_800_000_000,
                'after' => 'x  y',
                'bytes_read' => '12',
                'attempts' => '',
            ],
            '',
        );
        self::assertInstanceOf(Task::class, $task);
        self::assertSame(
            ['7', ['x', 'y'], 12, 1, TaskState::Done],
            [$task->id, $task->after, $task->figures['bytes_read'], $task->attempts, $task->state],
        );
        self::assertInstanceOf(JobProblem::class, (new HeadReader())->head(['name' => 'j', 'workers' => -1], ''));
        self::assertInstanceOf(JobProblem::class, (new HeadReader())->stage(['id' => 's', 'after' => 's'], 0));
    }

    /**
     * @param  list<string>  $open
     * @param  list<array{string, mixed}>  $expected
     */
    #[DataProvider('documents')]
    public function test_json_is_read_in_pieces_of_any_size(string $text, array $open, array $expected): void
    {
        foreach ([1, 2, 3, 7, 64, 4096] as $size) {
            $at = 0;
            $stream = new JsonStream(static function () use ($text, $size, &$at): string {
                $piece = substr($text, $at, $size);
                $at += $size;

                return $piece;
            }, $open);
            $found = [];
            foreach ($stream->values() as $place => $value) {
                $found[] = [$place, $value];
            }
            self::assertSame($expected, $found, "in pieces of {$size}");
        }
    }

    /**
     * @return iterable<string, array{string, list<string>, list<array{string, mixed}>}>
     */
    public static function documents(): iterable
    {
        yield 'one value' => [' {"a":[1,{"b":"}]\\""}]} ', [], [['', ['a' => [1, ['b' => '}]"']]]]]];
        yield 'items of a list' => [
            '{"n":12.5e1,"tasks":[{"id":"ü\\u00fc"},[],true,-3],"z":null}',
            ['', 'tasks'],
            [['n', 125.0], ['tasks[]', ['id' => 'üü']], ['tasks[]', []], ['tasks[]', true], ['tasks[]', -3], ['z', null]],
        ];
        yield 'lists in lists' => [
            '{"r":[{"s":[1,2]},{"t":0,"s":[]}]}',
            ['', 'r', 'r[]', 'r[].s'],
            [['r[].s[]', 1], ['r[].s[]', 2], ['r[].t', 0]],
        ];
        yield 'several documents' => ["{\"a\":1}\n{\"a\":2}", [''], [['a', 1], ['a', 2]]];
        yield 'nothing' => ['  ', [''], []];
    }

    public function test_broken_json_is_told_with_its_line(): void
    {
        foreach (
            [
                "{\"a\":1,\n\"b\" 2}" => 2,
                "{\"tasks\":[\n{\"id\":1},\n{\"id\":}]}" => 3,
                "{\"tasks\":[\n1,2" => 2,
                '{"a":tru}' => 1,
                "{\n\n1:2}" => 3,
            ] as $text => $line
        ) {
            $given = false;
            $stream = new JsonStream(
                static function () use ($text, &$given): string {
                    $piece = $given ? '' : $text;
                    $given = true;

                    return $piece;
                },
                ['', 'tasks'],
            );
            try {
                iterator_to_array($stream->values(), false);
                self::fail($text);
            } catch (JsonError $error) {
                self::assertSame($line, $error->textLine, $text);
            }
        }
    }

    public function test_spans_may_bear_both_ways_of_ids(): void
    {
        self::assertSame('0102030405060708', SpanReader::id(['spanId' => '0102030405060708']));
        self::assertSame('0102030405060708', SpanReader::id(['spanId' => base64_encode("\1\2\3\4\5\6\7\10")]));
        self::assertSame('', SpanReader::id([]));
        $span = [
            'spanId' => '0102030405060708',
            'name' => 'x',
            'startTimeUnixNano' => '1763686800000000123',
            'endTimeUnixNano' => '1763686801000000999',
            'links' => [['spanId' => 'aaaaaaaaaaaaaaaa']],
            'status' => ['code' => 'STATUS_CODE_ERROR'],
            'attributes' => [
                ['key' => 'task.bytes_read', 'value' => ['intValue' => '77']],
                ['key' => 'task.attempts', 'value' => ['intValue' => 2]],
            ],
        ];
        $task = (new SpanReader())->task($span, ['host.name' => 'h1'], 'fold', 'line 1');
        self::assertInstanceOf(Task::class, $task);
        self::assertSame(
            ['fold', ['aaaaaaaaaaaaaaaa'], 1_763_686_800_000_000, 1_763_686_801_000_000, 'h1', 2, TaskState::Failed, 77],
            [
                $task->stage,
                $task->after,
                $task->startedUs,
                $task->endedUs,
                $task->worker,
                $task->attempts,
                $task->state,
                $task->figures['bytes_read'],
            ],
        );
        self::assertInstanceOf(
            JobProblem::class,
            (new SpanReader())->task(['endTimeUnixNano' => '5000', 'startTimeUnixNano' => '9000'] + $span, [], '', ''),
        );
    }

    public function test_what_is_written_says_what_was_read(): void
    {
        $run = Jobs::run(
            [new Stage('a', 'a', [], 'field.x', 2, 3), new Stage('b', 'b', ['a'])],
            [['a0', 'a', 0, 10, 0, 5], ['b0', 'b', 10, 12, 0, 5, 2, [0]]],
            2,
            0.5,
        );
        $tasks = iterator_to_array(JobDocument::tasks($run), false);
        $reader = new TaskReader();
        $again = array_map(static fn (array $task): Task|JobProblem => $reader->task($task, ''), $tasks);
        self::assertInstanceOf(Task::class, $again[1]);
        self::assertSame(
            ['b0', 'b', ['a0'], 2, $run->table->started[1]],
            [$again[1]->id, $again[1]->stage, $again[1]->after, $again[1]->attempts, $again[1]->startedUs],
        );
        $head = JobDocument::head($run);
        self::assertSame(['a', [2, 3]], [$head['stages'][1]['after'][0], $head['stages'][0]['lines']]);
        $events = iterator_to_array(TraceEvents::of($run), false);
        self::assertSame(['M', 'M', 'X', 'X'], array_column($events, 'ph'));
        self::assertSame([10_000_000, 2_000_000], array_values(array_column($events, 'dur')));
    }

    public function test_runs_over_weeks(): void
    {
        $day = 86_400_000_000;
        $rates = static fn (array $rates): array => array_map(
            static fn (int $i, float $rate): array => [$i * $day, (int) ($rate * 1000), 100],
            array_keys($rates),
            $rates,
        );
        self::assertNull(Regression::of($rates([10, 10.5, 9.8, 10.2, 10.1])));
        self::assertNull(Regression::of($rates([10, 10, 10, 20, 10])), 'one bad night is none');
        $slower = Regression::of($rates([10, 10.5, 9.8, 10, 16, 15, 17]));
        self::assertSame(4 * $day, $slower?->sinceUs);
        self::assertSame(
            3 * $day,
            Regression::of($rates([10, 10.2, 9.9, 17, 16, 18, 17, 16, 17]))?->sinceUs,
            'more bad nights than good ones',
        );
        self::assertEqualsWithDelta(1.6, $slower->factor, 0.01);
        // 100, 110, 120, 130 by days: the next is 140, and it grows by 70 of 140 in a week.
        $trend = InputTrend::of([[0, 100], [$day, 110], [2 * $day, 120], [3 * $day, 130]], 4 * $day);
        self::assertEqualsWithDelta(140, $trend?->nextBytes, 1e-6);
        self::assertEqualsWithDelta(0.5, $trend->weekly, 1e-6);
        self::assertEqualsWithDelta(0, $trend->deviation, 1e-6);
        self::assertNull(InputTrend::of([], 0));
    }

    public function test_two_runs_stage_by_stage(): void
    {
        $stages = [new Stage('a', 'a'), new Stage('b', 'b', ['a'])];
        $one = Jobs::run($stages, [['a0', 'a', 0, 10, 0, 100], ['b0', 'b', 10, 20, 0, 100]]);
        $other = Jobs::run($stages, [['a0', 'a', 0, 22, 0, 200], ['b0', 'b', 22, 72, 0, 200]]);
        $changes = StageChange::between(RunFacts::of($one), $stages, RunFacts::of($other), $stages);
        self::assertSame(['b', 'a'], array_column($changes, 'stage'));
        self::assertSame(40_000_000, $changes[0]->moreUs());
        self::assertEqualsWithDelta(2.5, $changes[0]->perByte(), 1e-9);
        self::assertEqualsWithDelta(1.1, $changes[1]->perByte(), 1e-9);
    }
}
