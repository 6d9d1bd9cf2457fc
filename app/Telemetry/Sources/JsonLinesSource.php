<?php

declare(strict_types=1);

namespace App\Telemetry\Sources;

use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Telemetry\Rejection;
use Generator;

final readonly class JsonLinesSource implements RecordSource
{
    public function records(LineFile $file, ExecutionReader $reader): Generator
    {
        while (($line = $file->next()) !== null) {
            if ($file->wasCut()) {
                yield $file->line => [substr($line, 0, 65_536), new Rejection('(line)', 'is longer than 16 MiB')];
            } elseif (trim($line) !== '') {
                yield $file->line => [$line, $reader->line($line)];
            }
        }
    }
}
