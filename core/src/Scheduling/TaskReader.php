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
        $stage = self::text($record['stage'] ?? null);
        $long = 'is longer than '.self::MAX_ID.' bytes';
        if ($id === '' || strlen($id) > self::MAX_ID) {
            return new JobProblem($where, 'task', 'id', $id === '' ? 'is missing' : $long, 'Give every task an id of its own.', true);
        }
        try {
            if (strlen($stage) > self::MAX_ID) {
                throw new WrongField('stage', $long, 'Shorten it.');
            }
            [$queued, $started, $ended] = $this->times($record);
            $state = self::state($record['state'] ?? null, $started, $ended);
            $figures = self::figures($record);
            $attempts = self::attempts($record['attempts'] ?? null);
            [$after, $afterStages] = [self::list($record, 'after'), self::list($record, 'after_stages')];
        } catch (WrongField $wrong) {
            return new JobProblem($where, "task {$id}", $wrong->field, $wrong->getMessage(), $wrong->remedy, true);
        }

        return new Task(
            $id,
            $stage,
            $after,
            $afterStages,
            $queued,
            $started,
            $state === TaskState::Running || $state === TaskState::Waiting ? -1 : $ended,
            substr(self::text($record['worker'] ?? null), 0, self::MAX_ID),
            $attempts,
            $state,
            $figures,
        );
    }

    /**
     * @param  array<mixed>  $record
     * @return array{int, int, int} queued, started, ended in microseconds, -1 where not known
     *
     * @throws WrongField
     */
    private function times(array $record): array
    {
        $times = [];
        foreach (['queued_at', 'started_at', 'ended_at'] as $field) {
            $value = $record[$field] ?? null;
            $moment = $value === null || $value === '' ? -1 : $this->moments->microseconds($value);
            if ($moment === null || $moment < -1) {
                throw new WrongField($field, 'is no moment', 'Write it like 2026-11-20T01:00:00.5Z, or as Unix seconds.');
            }
            $times[] = $moment;
        }
        [, $started, $ended] = $times;
        if ($ended >= 0 && $started < 0) {
            throw new WrongField('started_at', 'is missing though the task ended', 'Add when it started.');
        }
        if ($ended >= 0 && $ended < $started) {
            throw new WrongField(
                'ended_at',
                'lies before started_at, by '.($started - $ended).' µs',
                'A task cannot take negative time; look at the clock of its worker and send it again.',
            );
        }

        return $times;
    }

    /** @throws WrongField */
    private static function state(mixed $said, int $started, int $ended): TaskState
    {
        $state = match (true) {
            $said !== null && $said !== '' => is_string($said) ? TaskState::tryFrom($said) : null,
            $ended >= 0 => TaskState::Done,
            $started >= 0 => TaskState::Running,
            default => TaskState::Waiting,
        };
        if ($state === null) {
            throw new WrongField('state', 'is not known', 'It is one of waiting, running, done, failed.');
        }
        if ($state === TaskState::Done && $ended < 0) {
            throw new WrongField(
                'ended_at',
                'is missing though the task is done',
                'Add when it ended, or say that it is running.',
            );
        }

        return $state;
    }

    /**
     * @param  array<mixed>  $record
     * @return array<string, int>
     *
     * @throws WrongField
     */
    private static function figures(array $record): array
    {
        $figures = [];
        foreach (Task::FIGURES as $field) {
            $value = $record[$field] ?? null;
            if ($value !== null && $value !== '') {
                $figures[$field] =
                    self::count($value) ??
                    throw new WrongField($field, 'is no whole number from 0', 'Leave it out where it is not known.');
            }
        }

        return $figures;
    }

    /** @throws WrongField */
    private static function attempts(mixed $said): int
    {
        $attempts = $said === null || $said === '' ? 1 : self::count($said);
        if ($attempts === null || $attempts > 1_000_000) {
            throw new WrongField('attempts', 'is no whole number from 0', 'Leave it out where it is not known.');
        }

        return max(1, $attempts);
    }

    /**
     * @param  array<mixed>  $record
     * @return list<string>|null null where nothing is said
     *
     * @throws WrongField
     */
    private static function list(array $record, string $field): ?array
    {
        $value = $record[$field] ?? null;

        return $value === null || $value === ''
            ? null
            : self::names($value) ??
                throw new WrongField($field, 'is no list of ids', 'Write a list of texts; in CSV parted by spaces.');
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
