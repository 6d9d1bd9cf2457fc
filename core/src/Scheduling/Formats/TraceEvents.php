<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling\Formats;

use Fulcrion\Core\Scheduling\RecordedRun;
use Generator;

/**
 * A run as Trace Event JSON, which general viewers of traces open: a process a stage, a thread a worker.
 */
final readonly class TraceEvents
{
    /**
     * @return Generator<int, array<string, mixed>>
     */
    public static function of(RecordedRun $run): Generator
    {
        foreach ($run->stages as $stage => $one) {
            yield ['ph' => 'M', 'name' => 'process_name', 'pid' => $stage + 1, 'tid' => 0, 'args' => ['name' => $one->name]];
        }
        $table = $run->table;
        foreach ($table->stage as $task => $stage) {
            if ($table->started[$task] < 0) {
                continue;
            }
            $args = ['state' => $table->stateOf($task)->value, 'attempts' => $table->attempts[$task]];
            foreach ($table->figures as $figure => $values) {
                if ($values[$task] >= 0) {
                    $args[$figure] = $values[$task];
                }
            }
            yield [
                'ph' => 'X',
                'name' => $table->ids[$task],
                'cat' => $run->stages[$stage]->name,
                'pid' => $stage + 1,
                'tid' => max(0, $table->worker[$task]),
                'ts' => $table->started[$task],
                'dur' => ($table->ended[$task] >= 0 ? $table->ended[$task] : $run->endUs) - $table->started[$task],
                'args' => $args,
            ];
        }
    }
}
