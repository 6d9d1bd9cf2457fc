<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

use Fulcrion\Core\Time\MomentReader;

/**
 * Reads a task from a decoded record: JSON object or CSV row with the same names.
 */
final readonly class TaskReader
{
    private const MAX_ID = 190;

    private MomentReader $moments;

    public function __construct()
    {
        $this->moments = new MomentReader();
    }

    /**
     * @param  array<mixed>  $record
     */
    public function task(array $record, string $where): Task|JobProblem
    {
        $id = self::text($record['id'] ?? null);
        if ($id === '' || strlen($id) > self::MAX_ID) {
            return new JobProblem(
                $where,
                'task',
                'id',
                $id === '' ? 'is missing' : 'is longer than '.self::MAX_ID.' bytes',
                'Give every task an id of its own.',
                true,
            );
        }
        $stage = self::text($record['stage'] ?? null);
        if (strlen($stage) > self::MAX_ID) {
            return new JobProblem($where, "task {$id}", 'stage', 'is longer than '.self::MAX_ID.' bytes', 'Shorten it.', true);
        }
        $times = [];
        foreach (['queued_at', 'started_at', 'ended_at'] as $field) {
            $value = $record[$field] ?? null;
            $moment = $value === null || $value === '' ? -1 : $this->moments->microseconds($value);
            if ($moment === null || $moment < -1) {
                return new JobProblem(
                    $where,
                    "task {$id}",
                    $field,
                    'is no moment',
                    'Write it like 2026-11-20T01:00:00.5Z, or as Unix seconds.',
                    true,
                );
            }
            $times[] = $moment;
        }
        [$queued, $started, $ended] = $times;
        if ($ended >= 0 && $started < 0) {
            return new JobProblem($where, "task {$id}", 'started_at', 'is missing though the task ended', 'Add when it started.', true);
        }
        if ($ended >= 0 && $ended < $started) {
            return new JobProblem(
                $where,
                "task {$id}",
                'ended_at',
                'lies before started_at, by '.($started - $ended).' µs',
                'A task cannot take negative time; look at the clock of its worker and send it again.',
                true,
            );
        }
        $state = $record['state'] ?? null;
        $known =
            $state === null || $state === ''
                ? ($ended >= 0
                    ? TaskState::Done
                    : ($started >= 0
                        ? TaskState::Running
                        : TaskState::Waiting))
                : (is_string($state)
                    ? TaskState::tryFrom($state)
                    : null);
        if ($known === null) {
            return new JobProblem($where, "task {$id}", 'state', 'is not known', 'It is one of waiting, running, done, failed.', true);
        }
        if ($known === TaskState::Done && $ended < 0) {
            return new JobProblem(
                $where,
                "task {$id}",
                'ended_at',
                'is missing though the task is done',
                'Add when it ended, or say that it is running.',
                true,
            );
        }
        $figures = [];
        foreach (Task::FIGURES as $field) {
            $value = $record[$field] ?? null;
            if ($value !== null && $value !== '') {
                $count = self::count($value);
                if ($count === null) {
                    return new JobProblem(
                        $where,
                        "task {$id}",
                        $field,
                        'is no whole number from 0',
                        'Leave it out where it is not known.',
                        true,
                    );
                }
                $figures[$field] = $count;
            }
        }
        $attempts = $record['attempts'] ?? null;
        $attempts = $attempts === null || $attempts === '' ? 1 : self::count($attempts);
        if ($attempts === null || $attempts > 1_000_000) {
            return new JobProblem(
                $where,
                "task {$id}",
                'attempts',
                'is no whole number from 0',
                'Leave it out where it is not known.',
                true,
            );
        }
        $lists = [];
        foreach (['after', 'after_stages'] as $field) {
            $value = $record[$field] ?? null;
            $list = $value === null || $value === '' ? null : self::names($value);
            if ($value !== null && $value !== '' && $list === null) {
                return new JobProblem(
                    $where,
                    "task {$id}",
                    $field,
                    'is no list of ids',
                    'Write a list of texts; in CSV parted by spaces.',
                    true,
                );
            }
            $lists[] = $list;
        }

        return new Task(
            $id,
            $stage,
            $lists[0],
            $lists[1],
            $queued,
            $started,
            $known === TaskState::Running || $known === TaskState::Waiting ? -1 : $ended,
            substr(self::text($record['worker'] ?? null), 0, self::MAX_ID),
            max(1, $attempts),
            $known,
            $figures,
        );
    }

    private static function text(mixed $value): string
    {
        return is_string($value) ? trim($value) : (is_int($value) ? (string) $value : '');
    }

    private static function count(mixed $value): ?int
    {
        if (is_float($value) && floor($value) === $value && $value < 9e18) {
            $value = (int) $value;
        }

        return is_int($value)
            ? ($value >= 0
                ? $value
                : null)
            : (is_string($value) && ctype_digit($value) && strlen($value) < 19
                ? (int) $value
                : null);
    }

    /**
     * @return list<string>|null
     */
    private static function names(mixed $value): ?array
    {
        if (is_string($value)) {
            $parts = preg_split('~\s+~', trim($value), -1, PREG_SPLIT_NO_EMPTY);

            return $parts === false ? null : $parts;
        }
        if (! is_array($value)) {
            return null;
        }
        $names = [];
        foreach ($value as $name) {
            $text = self::text($name);
            if ($text === '') {
                return null;
            }
            $names[] = $text;
        }

        return $names;
    }
}
