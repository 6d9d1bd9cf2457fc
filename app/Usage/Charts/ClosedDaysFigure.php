<?php

declare(strict_types=1);

namespace App\Usage\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Support\MomentStyle;
use App\Usage\Application\DaysPage;

/**
 * Clusters down, days across: filled what is closed, hollow what may still change, hatched what was corrected, a line where nothing is
 * known.
 */
final readonly class ClosedDaysFigure
{
    private const ROW = 26;

    private const WORDS = [
        'closed' => 'closed', 'open' => 'may still change', 'corrected' => 'closed, and corrected since', 'none' => 'nothing is known',
    ];

    public static function draw(DaysPage $page): Figure
    {
        $count = count($page->days);
        $frame = new Frame(
            'closed-days',
            'Days of use',
            "{$page->sentence()}.",
            Axis::even(0.0, (float) $count),
            Axis::even(0.0, 1.0),
            height: count($page->known) * self::ROW + 30,
            left: 150,
            top: 4,
            below: 26,
        );
        $rows = [];
        foreach (array_keys($page->known) as $i => $cluster) {
            $y = 4 + $i * self::ROW;
            $frame->text(142, $y + 15, mb_strimwidth($cluster, 0, 20, '…'), 'tick', 'end');
            foreach ($page->days as $at => $day) {
                $state = $page->state($cluster, $day);
                $left = $frame->x($at + 0.12);
                $width = $frame->x($at + 0.88) - $left;
                $said = "{$cluster}, ".self::name($day).': '.self::WORDS[$state];
                match ($state) {
                    'closed' => $frame->box('after-bar', $left, $y + 3, $width, self::ROW - 10, $said),
                    'corrected' => $frame->box('after-bar worse', $left, $y + 3, $width, self::ROW - 10, $said),
                    'open' => $frame->box('before-bar', $left, $y + 3, $width, self::ROW - 10, $said),
                    default => $frame->stroke('grid', $left, $y + 11, $left + $width, $y + 11),
                };
                $rows[] = [$cluster, self::name($day), self::WORDS[$state]];
            }
        }
        foreach ($page->days as $at => $day) {
            if ($at % 7 === 0) {
                $frame->text($frame->x($at + 0.5), count($page->known) * self::ROW + 22, self::name($day, MomentStyle::ShortDay));
            }
        }

        return $frame->figure(
            'Filled: closed an hour after midnight; what comes later is a correction with its own date. Hollow: follows its load. '
                .'Red: corrected since it was closed.',
            ['cluster', 'day', 'state'],
            $rows,
        );
    }

    private static function name(int $at, MomentStyle $style = MomentStyle::Weekday): string
    {
        return onUtc($at, $style);
    }
}
