<?php

declare(strict_types=1);

namespace App\Cost\Charts;

use App\Cost\Application\TeamAccount;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Support\MomentStyle;
use App\Telemetry\Usage\Amount;

/**
 * Day by day: filled what was used, hollow the same day of the period before.
 */
final readonly class DaysFigure
{
    public const HEIGHT = 210;

    public static function draw(TeamAccount $account): Figure
    {
        $measure = $account->measure();
        $now = $account->scope->days->starts();
        $before = $account->scope->against->starts();
        $count = max(count($now), count($before));
        $of = static fn (?int $day): int => $day === null ? 0 : max(0, $account->daily[$day] ?? 0);
        $ticks = Amount::ticks($measure, (float) max([1, ...array_map($of, [...$now, ...$before])]));
        $frame = new Frame(
            'days',
            ucfirst($measure->label()).' day by day',
            "{$account->sentence()}.",
            Axis::even(0.0, (float) max(1, $count)),
            Axis::upTo($ticks),
            height: self::HEIGHT,
            top: 12,
            below: 26,
        );
        $frame->grid($ticks, static fn (float $value): string => Amount::of($measure, $value));
        $rows = [];
        $each = max(1, (int) ceil($count / 10));
        for ($i = 0; $i < $count; $i++) {
            [$day, $then] = [$now[$i] ?? null, $before[$i] ?? null];
            $left = $frame->x($i + 0.14);
            $wide = $frame->x($i + 0.86) - $left;
            foreach ([['before-bar', $then, 0.0], ['after-bar', $day, 0.2]] as [$class, $at, $inset]) {
                if ($at !== null && $of($at) > 0) {
                    $y = $frame->y((float) $of($at));
                    $frame->box($class, $left + $inset * $wide, $y, $wide * (1 - 2 * $inset), $frame->bottom - $y,
                        self::name($at).': '.Amount::of($measure, $of($at)));
                }
            }
            if ($day !== null && $i % $each === 0) {
                $frame->text($frame->x($i + 0.5), self::HEIGHT - 8, self::name($day, MomentStyle::ShortDay));
            }
            $rows[] = [
                $day === null ? '' : self::name($day), $day === null ? '' : Amount::of($measure, $of($day)),
                $then === null ? '' : self::name($then), $then === null ? '' : Amount::of($measure, $of($then)),
            ];
        }

        return $frame->figure(
            'Filled: '.$account->scope->days->describe().'. Hollow: '.$account->scope->against->describe().
                '. Sums of usage facts of each day.',
            ['day', $measure->label(), 'against', $measure->label().' then'],
            $rows,
        );
    }

    private static function name(int $at, MomentStyle $style = MomentStyle::Weekday): string
    {
        return onUtc($at, $style);
    }
}
