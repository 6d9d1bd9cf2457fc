<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling\Formats;

use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\Task;
use Generator;

/**
 * Writes a run in our own format, and its tasks as rows; what is not known is left out.
 */
final readonly class JobDocument
{
    public static function moment(int $us): ?string
    {
        return $us < 0 ? null : gmdate('Y-m-d\TH:i:s', intdiv($us, 1_000_000)).sprintf('.%06dZ', $us % 1_000_000);
    }

    /**
     * @return array<string, mixed>
     */
    public static function head(RecordedRun $run): array
    {
        $head = $run->head;

        return array_filter(
            [
                'id' => $head->id,
                'name' => $head->name,
                'owner' => $head->owner,
                'cluster' => $head->cluster,
                'submitted_at' => self::moment($head->submittedUs),
                'started_at' => self::moment($head->startedUs),
                'ended_at' => self::moment($head->endedUs),
                'deadline_at' => self::moment($head->deadlineUs),
                'state' => $head->state->value,
                'workers' => $head->workers > 0 ? $head->workers : null,
                'worker_price' => $head->workerPrice,
                'currency' => $head->currency,
                'modelled' => $head->modelled ? true : null,
                'script' => $head->script,
                'stages' => array_map(
                    static fn (Stage $stage): array => array_filter(
                        [
                            'id' => $stage->id,
                            'name' => $stage->name,
                            'after' => $run->inferred ? [] : $stage->after,
                            'input' => $stage->input,
                            'lines' => $stage->lineFrom > 0 ? [$stage->lineFrom, $stage->lineTo] : [],
                        ],
                        static fn (mixed $value): bool => $value !== '' && $value !== [],
                    ),
                    $run->stages,
                ),
            ],
            static fn (mixed $value): bool => $value !== null && $value !== '',
        );
    }

    /**
     * @return Generator<int, array<string, mixed>>
     */
    public static function tasks(RecordedRun $run): Generator
    {
        $table = $run->table;
        foreach ($table->ids as $task => $id) {
            $record = ['id' => $id, 'stage' => $run->stages[$table->stage[$task]]->id];
            if (isset($table->after[$task])) {
                $record['after'] = array_map(static fn (int $one): string => $table->ids[$one], $table->after[$task]);
            }
            if (isset($table->afterStages[$task])) {
                $record['after_stages'] = array_map(static fn (int $one): string => $run->stages[$one]->id, $table->afterStages[$task]);
            }
            foreach (['queued_at' => $table->queued, 'started_at' => $table->started, 'ended_at' => $table->ended] as $field => $times) {
                if ($times[$task] >= 0) {
                    $record[$field] = self::moment($times[$task]);
                }
            }
            $worker = $run->workerNames[$table->worker[$task]] ?? '';
            if ($worker !== '') {
                $record['worker'] = $worker;
            }
            $record['state'] = $table->stateOf($task)->value;
            if ($table->attempts[$task] > 1) {
                $record['attempts'] = $table->attempts[$task];
            }
            foreach (Task::FIGURES as $figure) {
                if ($table->figures[$figure][$task] >= 0) {
                    $record[$figure] = $table->figures[$figure][$task];
                }
            }
            yield $record;
        }
    }
}
