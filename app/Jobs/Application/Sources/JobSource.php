<?php

declare(strict_types=1);

namespace App\Jobs\Application\Sources;

use Fulcrion\Core\Scheduling\JobProblem;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\Task;
use Fulcrion\Core\Text\JsonError;
use Generator;

/**
 * A file with the record of a job, read piece by piece.
 */
interface JobSource
{
    /**
     * Tasks, stages and what is wrong, as they come; fields of the head under their names.
     *
     * @return Generator<int|string, Task|Stage|JobProblem|array{string, mixed}>
     *
     * @throws JsonError
     */
    public function items(PieceFile $file): Generator;
}
