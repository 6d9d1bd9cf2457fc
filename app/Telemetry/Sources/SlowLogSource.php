<?php

declare(strict_types=1);

namespace App\Telemetry\Sources;

use Fulcrion\Core\Plans\ExplainLines;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Telemetry\Rejection;
use Fulcrion\Core\Telemetry\SlowLogReader;
use Generator;

final readonly class SlowLogSource implements RecordSource
{
    public function records(LineFile $file, ExecutionReader $reader): Generator
    {
        $log = new SlowLogReader();
        try {
            while (($line = $file->next()) !== null) {
                $entry = $log->feed($line);
                if ($entry !== null) {
                    yield $entry['line'] => [$entry['raw'], $reader->record($entry['record']), self::plan($entry['explain'])];
                }
            }
        } catch (DamagedFile $damage) {
            $entry = $log->end();
            if ($entry !== null) {
                yield $entry['line'] => [$entry['raw'], new Rejection('(entry)', 'breaks off where the file is damaged')];
            }
            throw $damage;
        }
        $entry = $log->end();
        if ($entry !== null) {
            yield $entry['line'] => [$entry['raw'], $reader->record($entry['record']), self::plan($entry['explain'])];
        }
    }

    /**
     * @param  list<string>  $lines
     */
    private static function plan(array $lines): ?Plan
    {
        return $lines === [] ? null : ExplainLines::read($lines);
    }
}
