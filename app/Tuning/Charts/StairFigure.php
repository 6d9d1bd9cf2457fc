<?php

declare(strict_types=1);

namespace App\Tuning\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use Fulcrion\Core\Text\Quantity;

/**
 * Time of a week after each remedy, falling from step to step; what was tried and left out stands on the level it met.
 */
final readonly class StairFigure
{
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
        $last = $steps[count($steps) - 1]['weekUs'];
        $summary =
            'From '.
            Quantity::duration($top).
            ' a week to '.
            Quantity::duration($last).
            ', '.
            Quantity::digits($top / max(1.0, $last)).
            ' times less.';
        $frame = new Frame(
            'stair',
            'Time of a week after each step',
            $summary,
            Axis::even(0.0, (float) count($steps)),
            Axis::even(0.0, max($top, Axis::top($ticks))),
            height: 320,
            top: 24,
            below: 66,
            beside: 20,
        );
        $frame->grid($ticks, Quantity::duration(...));
        $width = $frame->x(1.0) - $frame->left;
        $path = [];
        $rows = [];
        $level = $top;
        $said = 0.0;
        foreach ($steps as $i => $step) {
            $x = $frame->x($i);
            $here = $frame->y($step['weekUs']);
            $kept = $step['state'] === 'kept';
            if ($kept && $i > 0) {
                $from = $frame->y($level);
                $frame->box('bar s1 faint', $x, $from, $width, max(0.0, $here - $from), "{$step['title']}: {$step['note']}");
            }
            array_push($path, [(float) $i, $step['weekUs']], [$i + 1.0, $step['weekUs']]);
            $level = $step['weekUs'];
            $middle = $x + $width / 2;
            if (! $kept) {
                $frame->dot('ring', $middle, $here, 4, "{$step['title']}: {$step['state']}, {$step['note']}");
            }
            // Falls too small to be told apart would write over each other; the table has them all.
            if ($i === 0 || ($kept && ($width >= self::WORD || $here - $said >= self::LINE))) {
                $frame->text($middle, $here - 6, Quantity::duration($step['weekUs']), 'tick strong');
                $said = $here;
            }
            $frame->text($middle, $frame->bottom + 18, $i === 0 ? '' : (string) $i, 'tick'.($kept ? ' strong' : ''));
            $rows[] = [
                ($i === 0 ? '' : $i.'. ').$step['title'],
                $step['state'],
                Quantity::duration($step['weekUs']),
                Quantity::bytes($step['bytes']),
                $step['note'],
            ];
        }
        $frame->line('line s1', $path);
        if ($last < $steps[0]['weekUs'] && $frame->y($last) - $said < self::LINE && $width < self::WORD) {
            $frame->text($frame->right, $frame->y($last) - 10, Quantity::duration($last), 'tick strong', 'end');
        }
        foreach (self::acts($steps) as [$act, $from, $to]) {
            [$left, $right] = [$frame->x($from) + 3, $frame->x($to + 1) - 3];
            $under = $frame->bottom + 26;
            $frame->stroke('grid', $left, $under, $right, $under)
                ->text(($left + $right) / 2, $frame->bottom + 42, $act);
        }

        return $frame->figure(
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
