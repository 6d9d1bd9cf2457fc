<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling\Formats;

use Fulcrion\Core\Scheduling\JobHead;
use Fulcrion\Core\Scheduling\JobProblem;
use Fulcrion\Core\Scheduling\JobState;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\WrongField;
use Fulcrion\Core\Time\MomentReader;

/**
 * Reads what a document says of the whole job, and its stages.
 */
final readonly class HeadReader
{
    private const MOMENTS = ['submitted_at', 'started_at', 'ended_at', 'deadline_at'];

    /**
     * @param  array<mixed>  $fields
     */
    public function head(array $fields, string $id): JobHead|JobProblem
    {
        try {
            $texts = self::texts($fields, $id);
            $moments = self::moments($fields);
            $workers = $fields['workers'] ?? 0;
            if (! is_int($workers) || $workers < 0 || $workers > 1_000_000) {
                throw new WrongField('workers', 'is no whole number from 0 to 1 000 000', 'Leave it out where it is not known.');
            }
            $price = $fields['worker_price'] ?? null;
            if (($price !== null && ! is_int($price) && ! is_float($price)) || (is_numeric($price) && $price < 0)) {
                throw new WrongField(
                    'worker_price',
                    'is no number from 0',
                    'Give the price of one worker for an hour, or leave it out.',
                );
            }
            $state = $fields['state'] ?? ($moments['ended_at'] >= 0 ? 'done' : 'running');
            $known =
                (is_string($state) ? JobState::tryFrom($state) : null) ??
                throw new WrongField('state', 'is not known', 'It is one of running, done, failed.');
            $name = $texts['name'] === '' ? $texts['id'] : $texts['name'];
            if ($name === '') {
                throw new WrongField('name', 'is missing', 'Give the job a name.');
            }
        } catch (WrongField $wrong) {
            return new JobProblem('', 'job', $wrong->field, $wrong->getMessage(), $wrong->remedy, true);
        }

        return new JobHead(
            $texts['id'] === '' ? $name : $texts['id'],
            $name,
            $texts['owner'],
            $texts['cluster'],
            $moments['submitted_at'],
            $moments['started_at'],
            $moments['ended_at'],
            $known,
            $texts['script'],
            $workers,
            $price === null ? null : (float) $price,
            $texts['currency'],
            $moments['deadline_at'],
            ($fields['modelled'] ?? false) === true,
        );
    }

    /**
     * @param  array<mixed>  $fields
     * @return array{id: string, name: string, owner: string, cluster: string, script: string, currency: string}
     *
     * @throws WrongField
     */
    private static function texts(array $fields, string $id): array
    {
        $texts = ['id' => $id, 'name' => '', 'owner' => '', 'cluster' => '', 'script' => '', 'currency' => ''];
        foreach ($texts as $field => $default) {
            $value = $fields[$field] ?? $default;
            if (! is_string($value) && ! is_int($value)) {
                throw new WrongField($field, 'is no text', 'Write it as a text.');
            }
            $texts[$field] = trim((string) $value) === '' ? $default : (string) $value;
            if ($field !== 'script' && strlen($texts[$field]) > 190) {
                throw new WrongField($field, 'is longer than 190 bytes', 'Shorten it.');
            }
        }

        return $texts;
    }

    /**
     * @param  array<mixed>  $fields
     * @return array<string, int> by name of MOMENTS, in microseconds, -1 where not known
     *
     * @throws WrongField
     */
    private static function moments(array $fields): array
    {
        $moments = [];
        $reader = new MomentReader();
        foreach (self::MOMENTS as $field) {
            $value = $fields[$field] ?? null;
            $moment = $value === null || $value === '' ? -1 : $reader->microseconds($value);
            if ($moment === null || $moment < -1) {
                throw new WrongField($field, 'is no moment', 'Write it like 2026-11-20T01:00:00Z, or as Unix seconds.');
            }
            $moments[$field] = $moment;
        }
        if ($moments['ended_at'] >= 0 && $moments['ended_at'] < $moments['started_at']) {
            throw new WrongField('ended_at', 'lies before started_at', 'Look at the clock it was taken from.');
        }

        return $moments;
    }

    public function stage(mixed $fields, int $number): Stage|JobProblem
    {
        $where = 'stage '.($number + 1);
        $id = is_array($fields) ? $fields['id'] ?? null : null;
        if (! is_array($fields) || ! is_string($id) || $id === '' || strlen($id) > 190) {
            return new JobProblem($where, 'stage', 'id', 'is no text of 1 to 190 bytes', 'Give every stage an id.', true);
        }
        $after = $fields['after'] ?? [];
        $ids = is_array($after) ? array_values(array_filter($after, is_string(...))) : [];
        if (! is_array($after) || count($ids) !== count($after)) {
            return new JobProblem($where, "stage {$id}", 'after', 'is no list of ids of stages', 'Write a list of texts.', true);
        }
        $lines = $fields['lines'] ?? [0, 0];
        $valid = is_array($lines) && count($lines) === 2 && is_int($lines[0] ?? null) && is_int($lines[1] ?? null);
        if (! $valid) {
            return new JobProblem(
                $where,
                "stage {$id}",
                'lines',
                'are no two line numbers',
                'Write the first and the last line of the script, as [3, 7].',
                true,
            );
        }
        /** @var array{int, int} $lines */
        $name = $fields['name'] ?? $id;
        $input = $fields['input'] ?? '';

        return new Stage(
            $id,
            mb_strcut(is_string($name) && $name !== '' ? $name : $id, 0, 190),
            $ids,
            is_string($input) ? mb_strcut($input, 0, 190) : '',
            $lines[0],
            $lines[1],
        );
    }
}
