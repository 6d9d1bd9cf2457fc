<?php

declare(strict_types=1);

namespace App\Telemetry\Sources;

use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Telemetry\Rejection;
use Generator;

interface RecordSource
{
    /**
     * @return Generator<int, array{string, Execution|Rejection}> line number => the record as it stands in the file, what it is
     */
    public function records(LineFile $file, ExecutionReader $reader): Generator;
}
