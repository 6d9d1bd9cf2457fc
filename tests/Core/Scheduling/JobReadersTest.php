<?php

declare(strict_types=1);

namespace Tests\Core\Scheduling;

use Fulcrion\Core\Scheduling\Formats\HeadReader;
use Fulcrion\Core\Scheduling\JobHead;
use Fulcrion\Core\Scheduling\JobProblem;
use Fulcrion\Core\Scheduling\JobState;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\Task;
use Fulcrion\Core\Scheduling\TaskReader;
use Fulcrion\Core\Scheduling\TaskState;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * Every field of a job, a stage and a task: what is taken as it is, what is filled in, what is refused and how it is told.
 */
final class JobReadersTest extends TestCase
{
    private const LONGEST = 190;

    private const AT = 1_795_154_400_000_000;

    public function test_a_task_is_taken_with_all_it_says(): void
    {
        $task = self::task([
            'id' => ' map/7 ', 'stage' => 'map', 'worker' => 'host03-1', 'attempts' => 3, 'queued_at' => '2026-11-20T06:00:00Z',
            'started_at' => '2026-11-20T06:00:01Z', 'ended_at' => '2026-11-20T06:00:03.5Z', 'state' => 'failed', 'bytes_read' => 12,
            'rows_read' => '7', 'cpu_us' => 9.0, 'after' => ['map/1', 2], 'after_stages' => 'read  scan',
        ]);
        self::assertSame(['map/7', 'map', 'host03-1', 3, TaskState::Failed], [
            $task->id, $task->stage, $task->worker, $task->attempts, $task->state,
        ]);
        self::assertSame([self::AT, self::AT + 1_000_000, self::AT + 3_500_000], [$task->queuedUs, $task->startedUs, $task->endedUs]);
        self::assertEquals(['bytes_read' => 12, 'rows_read' => 7, 'cpu_us' => 9], $task->figures);
        self::assertSame([['map/1', '2'], ['read', 'scan']], [$task->after, $task->afterStages]);
    }

    public function test_what_a_task_does_not_say_is_filled_in(): void
    {
        $bare = self::task(['id' => 5]);
        self::assertSame(['5', '', '', 1, TaskState::Waiting, [], null, null, -1, -1, -1], [
            $bare->id, $bare->stage, $bare->worker, $bare->attempts, $bare->state, $bare->figures, $bare->after, $bare->afterStages,
            $bare->queuedUs, $bare->startedUs, $bare->endedUs,
        ]);
        self::assertSame(TaskState::Running, self::task(['id' => 'a', 'started_at' => 1])->state);
        self::assertSame(TaskState::Done, self::task(['id' => 'a', 'started_at' => 1, 'ended_at' => 1])->state);
        $running = self::task(['id' => 'a', 'started_at' => 1, 'ended_at' => 2, 'state' => 'running']);
        self::assertSame([1_000_000, -1], [$running->startedUs, $running->endedUs], 'what runs has not ended');
        self::assertSame(1, self::task(['id' => 'a', 'attempts' => 0])->attempts);
        self::assertSame([], self::task(['id' => 'a', 'after' => []])->after, 'waiting for nothing is not the same as saying nothing');
        self::assertNull(self::task(['id' => 'a', 'after' => ''])->after);
        self::assertSame(str_repeat('w', self::LONGEST), self::task(['id' => 'a', 'worker' => str_repeat('w', 200)])->worker);
    }

    /**
     * @return iterable<string, array{array<string, mixed>, string|null, string}> record, field that is refused, what is said of it
     */
    public static function tasks(): iterable
    {
        $long = str_repeat('x', self::LONGEST);
        yield 'the longest id' => [['id' => $long], null, ''];
        yield 'a longer one' => [['id' => "{$long}x"], 'id', 'is longer than 190 bytes'];
        yield 'no id' => [['id' => ' '], 'id', 'is missing'];
        yield 'an id that is a list' => [['id' => ['a']], 'id', 'is missing'];
        yield 'the longest stage' => [['stage' => $long], null, ''];
        yield 'a longer stage' => [['stage' => "{$long}x"], 'stage', 'is longer than 190 bytes'];
        foreach (['queued_at', 'started_at', 'ended_at'] as $field) {
            yield "{$field} in words" => [[$field => 'noon'], $field, 'is no moment'];
            yield "{$field} before 1970" => [[$field => -2], $field, 'is no moment'];
        }
        yield 'an end without a start' => [['ended_at' => 5], 'started_at', 'is missing though the task ended'];
        yield 'an end before the start' => [['started_at' => 9, 'ended_at' => 5], 'ended_at', 'lies before started_at, by 4000000 µs'];
        yield 'an end with the start' => [['started_at' => 5, 'ended_at' => 5], null, ''];
        yield 'a state nobody knows' => [['state' => 'lost'], 'state', 'is not known'];
        yield 'a state that is a number' => [['state' => 1], 'state', 'is not known'];
        yield 'done without an end' => [['state' => 'done', 'started_at' => 1], 'ended_at', 'is missing though the task is done'];
        yield 'failed without an end' => [['state' => 'failed', 'started_at' => 1], null, ''];
        foreach (Task::FIGURES as $figure) {
            yield "{$figure} of nothing" => [[$figure => 0], null, ''];
            yield "{$figure} below" => [[$figure => -1], $figure, 'is no whole number from 0'];
            yield "{$figure} in parts" => [[$figure => 0.5], $figure, 'is no whole number from 0'];
            yield "{$figure} in words" => [[$figure => 'many'], $figure, 'is no whole number from 0'];
            yield "{$figure} left open" => [[$figure => ''], null, ''];
        }
        yield 'a million attempts' => [['attempts' => 1_000_000], null, ''];
        yield 'one more' => [['attempts' => 1_000_001], 'attempts', 'is no whole number from 0'];
        yield 'attempts in words' => [['attempts' => 'twice'], 'attempts', 'is no whole number from 0'];
        foreach (['after', 'after_stages'] as $field) {
            yield "{$field} with nothing in it" => [[$field => ['a', '']], $field, 'is no list of ids'];
            yield "{$field} of lists" => [[$field => [['a']]], $field, 'is no list of ids'];
            yield "{$field} as a number" => [[$field => 7], $field, 'is no list of ids'];
        }
    }

    /**
     * @param  array<string, mixed>  $record
     */
    #[DataProvider('tasks')]
    public function test_a_task_is_refused_by_field_with_a_remedy(array $record, ?string $field, string $said): void
    {
        $read = (new TaskReader())->task($record + ['id' => 'a'], 'line 3');
        if ($field === null) {
            self::assertInstanceOf(Task::class, $read);

            return;
        }
        self::assertInstanceOf(JobProblem::class, $read);
        self::assertSame($field, $read->field);
        self::assertStringContainsString($said, $read->sentence());
        self::assertStringStartsWith('line 3: ', $read->sentence());
        self::assertStringEndsWith('.', $read->sentence());
        self::assertTrue($read->refuses);
    }

    public function test_a_head_is_taken_with_all_it_says(): void
    {
        $head = self::head([
            'id' => 'run-7', 'name' => 'nightly', 'owner' => 'loaders', 'cluster' => 'fernhill', 'script' => "read\nfold",
            'currency' => 'EUR',
            'submitted_at' => 1, 'started_at' => 2, 'ended_at' => 3, 'deadline_at' => 4, 'workers' => 40, 'worker_price' => 0.5,
            'state' => 'failed', 'modelled' => true,
        ]);
        self::assertEquals(
            new JobHead('run-7', 'nightly', 'loaders', 'fernhill', 1_000_000, 2_000_000, 3_000_000, JobState::Failed, "read\nfold", 40, 0.5,
                'EUR', 4_000_000, true),
            $head,
        );
    }

    public function test_what_a_head_does_not_say_is_filled_in(): void
    {
        $head = self::head(['name' => 'nightly']);
        self::assertSame(['nightly', 'nightly', 0, null, JobState::Running, false, -1], [
            $head->id, $head->name, $head->workers, $head->workerPrice, $head->state, $head->modelled, $head->deadlineUs,
        ]);
        self::assertSame(JobState::Done, self::head(['name' => 'a', 'ended_at' => 5])->state);
        $named = (new HeadReader())->head([], 'run-9');
        self::assertInstanceOf(JobHead::class, $named);
        self::assertSame(['run-9', 'run-9'], [$named->id, $named->name]);
        self::assertFalse(self::head(['name' => 'a', 'modelled' => 1])->modelled, 'only what is said to be');
    }

    /**
     * @return iterable<string, array{array<string, mixed>, string|null, string}>
     */
    public static function heads(): iterable
    {
        $long = str_repeat('x', self::LONGEST);
        yield 'no name' => [['name' => ' '], 'name', 'is missing'];
        foreach (['id', 'name', 'owner', 'cluster', 'currency'] as $field) {
            yield "the longest {$field}" => [[$field => $long], null, ''];
            yield "a longer {$field}" => [[$field => "{$long}x"], $field, 'is longer than 190 bytes'];
            yield "{$field} as a list" => [[$field => []], $field, 'is no text'];
        }
        yield 'a long script' => [['script' => "{$long}x"], null, ''];
        foreach (['submitted_at', 'started_at', 'ended_at', 'deadline_at'] as $field) {
            yield "{$field} in words" => [[$field => 'soon'], $field, 'is no moment'];
            yield "{$field} left open" => [[$field => ''], null, ''];
        }
        yield 'an end before the start' => [['started_at' => 9, 'ended_at' => 8], 'ended_at', 'lies before started_at'];
        yield 'an end with the start' => [['started_at' => 9, 'ended_at' => 9], null, ''];
        yield 'a million workers' => [['workers' => 1_000_000], null, ''];
        yield 'one more' => [['workers' => 1_000_001], 'workers', 'is no whole number'];
        yield 'fewer than none' => [['workers' => -1], 'workers', 'is no whole number'];
        yield 'workers in words' => [['workers' => '4'], 'workers', 'is no whole number'];
        yield 'for nothing' => [['worker_price' => 0], null, ''];
        yield 'for less' => [['worker_price' => -0.01], 'worker_price', 'is no number from 0'];
        yield 'a price in words' => [['worker_price' => '1'], 'worker_price', 'is no number from 0'];
        yield 'a state nobody knows' => [['state' => 'lost'], 'state', 'is not known'];
        yield 'a state that is a list' => [['state' => []], 'state', 'is not known'];
    }

    /**
     * @param  array<string, mixed>  $fields
     */
    #[DataProvider('heads')]
    public function test_a_head_is_refused_by_field_with_a_remedy(array $fields, ?string $field, string $said): void
    {
        $read = (new HeadReader())->head($fields + ['name' => 'nightly'], '');
        self::assertSame($field !== null, $read instanceof JobProblem);
        if ($read instanceof JobProblem) {
            self::assertSame($field, $read->field);
            self::assertStringContainsString($said, $read->sentence());
        }
    }

    public function test_a_stage_has_an_id_and_may_say_more(): void
    {
        $reader = new HeadReader();
        $stage = $reader->stage(['id' => 's', 'name' => 'scan', 'after' => ['a', 'b'], 'input' => 'field.pick', 'lines' => [3, 7]], 0);
        self::assertEquals(new Stage('s', 'scan', ['a', 'b'], 'field.pick', 3, 7), $stage);
        self::assertEquals(new Stage('s', 's'), $reader->stage(['id' => 's'], 4));
        $wrong = [
            'id' => ['s', [], ['id' => ''], ['id' => 7], ['id' => str_repeat('x', 191)]],
            'after' => [['id' => 's', 'after' => 'a'], ['id' => 's', 'after' => ['a', 7]]],
            'lines' => [['id' => 's', 'lines' => [1]], ['id' => 's', 'lines' => ['1', 2]], ['id' => 's', 'lines' => [1, 2, 3]],
                ['id' => 's', 'lines' => 'all']],
        ];
        foreach ($wrong as $field => $all) {
            foreach ($all as $fields) {
                $problem = $reader->stage($fields, 4);
                self::assertInstanceOf(JobProblem::class, $problem);
                self::assertSame([$field, true], [$problem->field, $problem->refuses]);
                self::assertStringStartsWith('stage 5: ', $problem->sentence());
            }
        }
    }

    /**
     * @param  array<string, mixed>  $record
     */
    private static function task(array $record): Task
    {
        $read = (new TaskReader())->task($record, 'line 1');
        self::assertInstanceOf(Task::class, $read);

        return $read;
    }

    /**
     * @param  array<string, mixed>  $fields
     */
    private static function head(array $fields): JobHead
    {
        $read = (new HeadReader())->head($fields, '');
        self::assertInstanceOf(JobHead::class, $read);

        return $read;
    }
}
