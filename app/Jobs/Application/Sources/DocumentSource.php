<?php

declare(strict_types=1);

namespace App\Jobs\Application\Sources;

use Fulcrion\Core\Scheduling\Formats\HeadReader;
use Fulcrion\Core\Scheduling\JobProblem;
use Fulcrion\Core\Scheduling\TaskReader;
use Fulcrion\Core\Text\JsonStream;
use Generator;

/**
 * Our own document: docs/formats/job.md.
 */
final readonly class DocumentSource implements JobSource
{
    public function items(PieceFile $file): Generator
    {
        $stream = new JsonStream($file->piece(...), ['', 'stages', 'tasks']);
        $tasks = new TaskReader();
        $stages = new HeadReader();
        $stageNumber = 0;
        foreach ($stream->values() as $place => $value) {
            if ($place === 'tasks[]') {
                $where = 'line '.$stream->line();
                yield is_array($value)
                    ? $tasks->task($value, $where)
                    : new JobProblem($where, 'task', '', 'is no object', 'Write each task as an object.', true);
            } elseif ($place === 'stages[]') {
                yield $stages->stage($value, $stageNumber++);
            } elseif ($place === '') {
                yield new JobProblem(
                    'line '.$stream->line(),
                    'document',
                    '',
                    'is no object',
                    'A job is written as one object; see docs/formats/job.md.',
                    true,
                );
            } else {
                yield [$place, $value];
            }
        }
    }
}
