<?php

declare(strict_types=1);

namespace App\Jobs\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use Fulcrion\Core\Text\Quantity;

/**
 * How many tasks of a stage took how long for how many bytes.
 */
final readonly class StageFigure
{
    private const COLUMNS = 48;

    private const ROWS = 14;

    /**
     * @param  list<array{tookUs: int, bytes: int, ...}>  $tasks
     */
    public static function draw(array $tasks): Figure
    {
        $mostUs = (float) max([1, ...array_column($tasks, 'tookUs')]);
        $mostBytes = (float) max([1, ...array_column($tasks, 'bytes')]);
        $cells = [];
        foreach ($tasks as $task) {
            $column = min(self::COLUMNS - 1, (int) ((max(0, $task['bytes']) / $mostBytes) * self::COLUMNS));
            $row = min(self::ROWS - 1, (int) (($task['tookUs'] / $mostUs) * self::ROWS));
            $cells[$row][$column] = ($cells[$row][$column] ?? 0) + 1;
        }
        ksort($cells);
        $summary =
            count($tasks).
            ' tasks by the bytes they read and the time they took; the slowest '.
            Quantity::duration($mostUs).
            ', the largest '.
            Quantity::bytes($mostBytes).
            '.';
        $frame = new Frame(
            'stage',
            'Time against bytes',
            $summary,
            Axis::even(0.0, $mostBytes),
            Axis::even(0.0, $mostUs),
            height: 260,
            top: 22,
            below: 40,
            beside: 12,
        );
        $ticks = array_filter(Scale::durations($mostUs), static fn (float $tick): bool => $tick <= $mostUs);
        $quarters = [];
        foreach ([0, 0.25, 0.5, 0.75] as $share) {
            $quarters[(string) ($share * $mostBytes)] = Quantity::bytes($share * $mostBytes);
        }
        $frame->grid($ticks, Quantity::duration(...), 8)->along($quarters, 22)
            ->text($frame->right, $frame->height - 22, Quantity::bytes($mostBytes), 'tick', 'end')
            ->names('time of a task', 'bytes it read');
        [$wide, $high] = [($frame->right - $frame->left) / self::COLUMNS, ($frame->bottom - $frame->top) / self::ROWS];
        $rows = [];
        foreach ($cells as $row => $columns) {
            ksort($columns);
            foreach ($columns as $column => $count) {
                $time =
                    Quantity::duration(($row / self::ROWS) * $mostUs).' to '.Quantity::duration((($row + 1) / self::ROWS) * $mostUs);
                $bytes =
                    Quantity::bytes(($column / self::COLUMNS) * $mostBytes).
                    ' to '.
                    Quantity::bytes((($column + 1) / self::COLUMNS) * $mostBytes);
                $tone = 1 + min(4, (int) floor(log($count, 3)));
                $frame->box(
                    "t{$tone} heat",
                    $frame->left + $column * $wide,
                    $frame->top + (self::ROWS - 1 - $row) * $high,
                    $wide - 1,
                    $high - 1,
                    "{$count} tasks took {$time} for {$bytes}",
                );
                $rows[] = [$time, $bytes, Quantity::count($count)];
            }
        }

        return $frame->figure(
            'Each cell holds the tasks between two times and two sizes; dark is many. A task high above others of its size is a '
                .'straggler, one far to the right is skew.',
            ['time', 'bytes', 'tasks'],
            array_reverse($rows),
        );
    }
}
