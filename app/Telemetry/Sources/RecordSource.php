<?php

declare(strict_types=1);

namespace App\Telemetry\Sources;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Telemetry\Rejection;
use Generator;

interface RecordSource
{
    /**
     * @return Generator<int, array{0: string, 1: Execution|Rejection, 2?: Plan|null}> line number => the record as it stands in the file,
     *     what it is, the plan it ran by where that stands beside it
     */
    public function records(LineFile $file, ExecutionReader $reader): Generator;
}
