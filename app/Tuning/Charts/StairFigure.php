<?php

declare(strict_types=1);

namespace App\Tuning\Charts;

use App\Platform\Figures\Figure;
use App\Platform\Figures\Scale;
use App\Platform\Figures\Svg;
use Fulcrion\Core\Text\Quantity;

/**
 * Time of a week after each remedy, falling from step to step; what was tried and left out stands on the level it met.
 */
final readonly class StairFigure
{
    private const WIDTH = 1180;

    private const HEIGHT = 320;

    private const LEFT = 84;

    private const TOP = 24;

    private const BOTTOM = 66;

    /** Width of a duration as it is written, and height of a line. */
    private const WORD = 84;

    private const LINE = 16;

    /**
     * @param  list<array{act: string, title: string, state: string, weekUs: float, sumUs: float, bytes: float, note: string,
     *     rewritten: float, change: int|null}>  $steps
     */
    public static function draw(array $steps): Figure
    {
        $top = max(1.0, $steps[0]['weekUs']);
        $ticks = Scale::durations($top);
        $high = max($top, end($ticks) ?: 1.0);
        $width = (self::WIDTH - self::LEFT - 20) / count($steps);
        $y = static fn (float $us): float => self::TOP + (1 - $us / $high) * (self::HEIGHT - self::TOP - self::BOTTOM);
        $n = Svg::number(...);
        $last = $steps[count($steps) - 1]['weekUs'];
        $summary =
            'From '.
            Quantity::duration($top).
            ' a week to '.
            Quantity::duration($last).
            ', '.
            Quantity::digits($top / max(1.0, $last)).
            ' times less.';
        $svg =
            '<svg class="figure-svg" viewBox="0 0 '.
            self::WIDTH.
            ' '.
            self::HEIGHT.
            '" role="img" aria-labelledby="stair-title stair-desc"><title id="stair-title">Time of a week after each step</title><desc '
                .'id="stair-desc">'.
            Svg::escape($summary).
            '</desc>';
        foreach ($ticks as $tick) {
            $svg .=
                '<line class="grid" x1="'.
                self::LEFT.
                '" x2="'.
                (self::WIDTH - 20).
                '" y1="'.
                $n($y($tick)).
                '" y2="'.
                $n($y($tick)).
                '"/><text class="tick" x="'.
                (self::LEFT - 6).
                '" y="'.
                $n($y($tick) + 4).
                '" text-anchor="end">'.
                Svg::escape(Quantity::duration($tick)).
                '</text>';
        }
        $path = '';
        $rows = [];
        $level = $top;
        $said = 0.0;
        foreach ($steps as $i => $step) {
            $x = self::LEFT + $i * $width;
            $here = $y($step['weekUs']);
            $kept = $step['state'] === 'kept';
            if ($kept && $i > 0) {
                $svg .=
                    '<rect class="bar s1 faint" x="'.
                    $n($x).
                    '" y="'.
                    $n($y($level)).
                    '" width="'.
                    $n($width).
                    '" height="'.
                    $n(max(0.0, $here - $y($level))).
                    '"><title>'.
                    Svg::escape("{$step['title']}: {$step['note']}").
                    '</title></rect>';
            }
            $path .= ($i === 0 ? 'M'.$n($x).' '.$n($here) : 'L'.$n($x).' '.$n($here)).'L'.$n($x + $width).' '.$n($here);
            $level = $step['weekUs'];
            $middle = $n($x + $width / 2);
            if (! $kept) {
                $svg .=
                    '<circle class="ring" cx="'.
                    $middle.
                    '" cy="'.
                    $n($here).
                    '" r="4"><title>'.
                    Svg::escape("{$step['title']}: {$step['state']}, {$step['note']}").
                    '</title></circle>';
            }
            // Falls too small to be told apart would write over each other; the table has them all.
            if ($i === 0 || ($kept && ($width >= self::WORD || $here - $said >= self::LINE))) {
                $svg .=
                    '<text class="tick strong" x="'.
                    $middle.
                    '" y="'.
                    $n($here - 6).
                    '" text-anchor="middle">'.
                    Svg::escape(Quantity::duration($step['weekUs'])).
                    '</text>';
                $said = $here;
            }
            $svg .=
                '<text class="tick'.
                ($kept ? ' strong' : '').
                '" x="'.
                $middle.
                '" y="'.
                (self::HEIGHT - self::BOTTOM + 18).
                '" text-anchor="middle">'.
                ($i === 0 ? '' : $i).
                '</text>';
            $rows[] = [
                ($i === 0 ? '' : $i.'. ').$step['title'],
                $step['state'],
                Quantity::duration($step['weekUs']),
                Quantity::bytes($step['bytes']),
                $step['note'],
            ];
        }
        $svg .= '<path class="line s1" d="'.$path.'"/>';
        if ($last < $steps[0]['weekUs'] && $y($last) - $said < self::LINE && $width < self::WORD) {
            $svg .=
                '<text class="tick strong" x="'.
                (self::WIDTH - 20).
                '" y="'.
                $n($y($last) - 10).
                '" text-anchor="end">'.
                Svg::escape(Quantity::duration($last)).
                '</text>';
        }
        foreach (self::acts($steps) as [$act, $from, $to]) {
            [$left, $right] = [self::LEFT + $from * $width + 3, self::LEFT + ($to + 1) * $width - 3];
            $svg .=
                '<line class="grid" x1="'.
                $n($left).
                '" x2="'.
                $n($right).
                '" y1="'.
                (self::HEIGHT - self::BOTTOM + 26).
                '" y2="'.
                (self::HEIGHT - self::BOTTOM + 26).
                '"/><text class="tick" x="'.
                $n(($left + $right) / 2).
                '" y="'.
                (self::HEIGHT - self::BOTTOM + 42).
                '" text-anchor="middle">'.
                Svg::escape($act).
                '</text>';
        }

        return new Figure(
            $svg.'</svg>',
            $summary,
            'After each step every statement it may change was run again on copies of the tables; its modelled time counts as often as '
                .'it runs in a week. Filled falls were kept, rings were tried and left out.',
            ['step', 'state', 'a week', 'read by one run of each', 'why'],
            $rows,
        );
    }

    /**
     * Steps of one act that follow each other.
     *
     * @param  list<array{act: string, title: string, state: string, weekUs: float, sumUs: float, bytes: float, note: string,
     *     rewritten: float, change: int|null}>  $steps
     * @return list<array{string, int, int}> the act, its first and its last step
     */
    private static function acts(array $steps): array
    {
        $acts = [];
        foreach ($steps as $i => $step) {
            $act = $i === 0 ? 'as it is' : $step['act'];
            if ($acts !== [] && $acts[count($acts) - 1][0] === $act) {
                $acts[count($acts) - 1][2] = $i;
            } else {
                $acts[] = [$act, $i, $i];
            }
        }

        return $acts;
    }
}
