<?php

declare(strict_types=1);

namespace App\Jobs\Charts;

use App\Platform\Figures\Figure;
use App\Platform\Figures\Scale;
use App\Platform\Figures\Svg;
use Fulcrion\Core\Text\Quantity;

/**
 * How many tasks of a stage took how long for how many bytes.
 */
final readonly class StageFigure
{
    private const WIDTH = 1180;

    private const HEIGHT = 260;

    private const LEFT = 84;

    private const TOP = 22;

    private const BOTTOM = 40;

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
        [$wide, $high] = [(self::WIDTH - self::LEFT - 12) / self::COLUMNS, (self::HEIGHT - self::TOP - self::BOTTOM) / self::ROWS];
        $n = Svg::number(...);
        $summary =
            count($tasks).
            ' tasks by the bytes they read and the time they took; the slowest '.
            Quantity::duration($mostUs).
            ', the largest '.
            Quantity::bytes($mostBytes).
            '.';
        $svg =
            '<svg class="figure-svg" viewBox="0 0 '.
            self::WIDTH.
            ' '.
            self::HEIGHT.
            '" role="img" aria-labelledby="stage-title stage-desc"><title id="stage-title">Time against bytes</title><desc '
                .'id="stage-desc">'.
            Svg::escape($summary).
            '</desc>';
        foreach (Scale::durations($mostUs) as $tick) {
            if ($tick <= $mostUs) {
                $y = self::TOP + (1 - $tick / $mostUs) * (self::HEIGHT - self::TOP - self::BOTTOM);
                $svg .=
                    '<line class="grid" x1="'.
                    self::LEFT.
                    '" x2="'.
                    (self::WIDTH - 12).
                    '" y1="'.
                    $n($y).
                    '" y2="'.
                    $n($y).
                    '"/><text class="tick" x="'.
                    (self::LEFT - 8).
                    '" y="'.
                    $n($y + 4).
                    '" text-anchor="end">'.
                    Quantity::duration($tick).
                    '</text>';
            }
        }
        foreach ([0, 0.25, 0.5, 0.75, 1] as $share) {
            $svg .=
                '<text class="tick" x="'.
                $n(self::LEFT + $share * (self::WIDTH - self::LEFT - 12)).
                '" y="'.
                (self::HEIGHT - 22).
                '" text-anchor="'.
                ($share > 0.9 ? 'end' : 'middle').
                '">'.
                Svg::escape(Quantity::bytes($share * $mostBytes)).
                '</text>';
        }
        $svg .=
            '<text class="tick" x="'.
            self::LEFT.
            '" y="12">time of a task</text><text class="tick" x="'.
            (self::WIDTH - 12).
            '" y="'.
            (self::HEIGHT - 6).
            '" text-anchor="end">bytes it read</text>';
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
                $svg .=
                    '<rect class="t'.
                    $tone.
                    ' heat" x="'.
                    $n(self::LEFT + $column * $wide).
                    '" y="'.
                    $n(self::TOP + (self::ROWS - 1 - $row) * $high).
                    '" width="'.
                    $n($wide - 1).
                    '" height="'.
                    $n($high - 1).
                    '"><title>'.
                    Svg::escape("{$count} tasks took {$time} for {$bytes}").
                    '</title></rect>';
                $rows[] = [$time, $bytes, Quantity::count($count)];
            }
        }

        return new Figure(
            $svg.'</svg>',
            $summary,
            'Each cell holds the tasks between two times and two sizes; dark is many. A task high above others of its size is a '
                .'straggler, one far to the right is skew.',
            ['time', 'bytes', 'tasks'],
            array_reverse($rows),
        );
    }
}
