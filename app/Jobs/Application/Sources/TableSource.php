<?php

declare(strict_types=1);

namespace App\Jobs\Application\Sources;

use Fulcrion\Core\Scheduling\JobProblem;
use Fulcrion\Core\Scheduling\TaskReader;
use Generator;

/**
 * CSV of tasks with a header; what the document says of the whole job stands in no column and is asked for beside.
 */
final readonly class TableSource implements JobSource
{
    public function items(PieceFile $file): Generator
    {
        $first = $file->piece();
        $line = strtok($first, "\r\n");
        $file->again();
        $separator = ',';
        foreach ([';', "\t"] as $other) {
            $separator = substr_count((string) $line, $other) > substr_count((string) $line, $separator) ? $other : $separator;
        }
        $header = array_map(
            static fn (?string $name): string => trim(preg_replace('~^\xEF\xBB\xBF~', '', (string) $name) ?? ''),
            $file->row($separator) ?? [],
        );
        if (! in_array('id', $header, true)) {
            yield new JobProblem(
                'line 1',
                'header',
                'id',
                'is no column',
                'The first line names the columns: id, stage, started_at, ended_at and more; see docs/formats/job.md.',
                true,
            );

            return;
        }
        $reader = new TaskReader();
        for ($number = 2; ($row = $file->row($separator)) !== null; $number++) {
            if ($row === [null]) {
                continue;
            }
            if (count($row) !== count($header)) {
                yield new JobProblem(
                    "line {$number}",
                    'row',
                    '',
                    'has '.count($row).' cells where the header has '.count($header),
                    'Quote cells that hold the separator.',
                    true,
                );

                continue;
            }
            yield $reader->task(array_combine($header, $row), "line {$number}");
        }
    }
}
