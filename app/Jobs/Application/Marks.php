<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use Fulcrion\Core\Scheduling\RecordedRun;

/**
 * A run as the score draws it: a line of JSON with the stages, then columns of whole numbers of 32 bits.
 */
final readonly class Marks
{
    private const COLUMNS = ['stage', 'start', 'end', 'worker', 'wait', 'bytes_read', 'bytes_written', 'rows', 'skew', 'flags'];

    private const MOST = 2_000_000_000;

    /** Of flags: failed, tried again, on the critical path, not through yet. */
    private const FAILED = 1;

    private const RETRIED = 2;

    private const CRITICAL = 4;

    private const OPEN = 8;

    /**
     * @param  list<int>  $path
     */
    public static function of(RecordedRun $run, array $path): string
    {
        $table = $run->table;
        $elapsed = max(1, $run->elapsedUs());
        // So that every time fits into 31 bits.
        $tickUs = max(1, (int) ceil(max($elapsed, max([0, ...$table->ended]) - $run->startUs) / self::MOST));
        $onPath = array_fill_keys($path, true);
        $medians = [];
        foreach ($table->stage as $task => $stage) {
            $medians[$stage][] = max(0, $table->figures['bytes_read'][$task]);
        }
        $medians = array_map(static function (array $bytes): int {
            sort($bytes);

            return $bytes[intdiv(count($bytes), 2)];
        }, $medians);
        $columns = array_fill_keys(self::COLUMNS, []);
        $small = static fn (int $value): int => min(self::MOST, max(0, $value));
        $links = [];
        foreach ($table->stage as $task => $stage) {
            foreach ($table->after[$task] ?? [] as $before) {
                $links[$stage][$table->stage[$before]] = true;
            }
            if ($table->started[$task] < 0) {
                continue;
            }
            $ended = $table->ended[$task] >= 0 ? $table->ended[$task] : $run->endUs;
            $columns['stage'][] = $stage;
            $columns['start'][] = $small(intdiv($table->started[$task] - $run->startUs, $tickUs));
            $columns['end'][] = $small(intdiv($ended - $run->startUs, $tickUs));
            $columns['worker'][] = $small($table->worker[$task]);
            $columns['wait'][] = $small(
                intdiv($table->started[$task] - max($run->readyUs[$task], $table->queued[$task], $run->startUs), $tickUs),
            );
            $columns['bytes_read'][] = $small(intdiv($table->figures['bytes_read'][$task], 1024));
            $columns['bytes_written'][] = $small(intdiv($table->figures['bytes_written'][$task], 1024));
            $columns['rows'][] = $small(intdiv($table->figures['rows_read'][$task], 64));
            $columns['skew'][] = $small((int) ((1000 * max(0, $table->figures['bytes_read'][$task])) / max(1, $medians[$stage])));
            $columns['flags'][] =
                ($table->stateOf($task)->value === 'failed' ? self::FAILED : 0) |
                ($table->attempts[$task] > 1 ? self::RETRIED : 0) |
                (isset($onPath[$task]) ? self::CRITICAL : 0) |
                ($table->ended[$task] < 0 ? self::OPEN : 0);
        }
        $number = [];
        foreach ($run->stages as $i => $stage) {
            $number[$stage->id] = $i;
        }
        $stages = [];
        foreach ($run->stages as $i => $stage) {
            foreach ($stage->after as $before) {
                $links[$i][$number[$before] ?? $i] = true;
            }
            $stages[] = ['name' => $stage->name, 'after' => array_keys($links[$i] ?? [])];
        }
        $head = json_encode(
            [
                'tasks' => count($columns['stage']),
                'of' => $table->count(),
                'tickUs' => $tickUs,
                'startUs' => $run->startUs,
                'elapsed' => intdiv($elapsed, $tickUs),
                'workers' => $run->workers(),
                'stages' => $stages,
                'columns' => self::COLUMNS,
            ],
            JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE,
        );
        // The numbers begin where a 32-bit number may.
        $head .= str_repeat(' ', 3 - (strlen($head) % 4))."\n";
        foreach (self::COLUMNS as $column) {
            $head .= pack('V*', ...$columns[$column]);
        }

        return $head;
    }
}
