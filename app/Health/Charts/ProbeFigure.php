<?php

declare(strict_types=1);

namespace App\Health\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Figures\Svg;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Health\ProbeRun;
use Fulcrion\Core\Health\ProbeScale;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Time\Steps;
use Fulcrion\Core\Time\Window;

/**
 * Each run of a probe as a mark, on a scale of times as long as when idle; what is usual at that hour of the week as a band, and the moment
 * that is asked for ringed. Where there are too many runs for marks, an upright stroke goes from the tenth to the ninetieth of a hundred.
 */
final readonly class ProbeFigure
{
    private const HEIGHT = 240;

    /** Marks that can still be distinguished. */
    private const MOST_MARKS = 700;

    private const STEPS = [3_600, 7_200, 21_600, 86_400];

    private const HOUR = 3_600;

    /** Of failed runs, from the top. */
    private const FAILED = 6.0;

    public static function draw(ProbeScale $scale, Window $window, int $to, ?int $asked, DateTimeZone $zone): ?Figure
    {
        $runs = array_values(array_filter(
            $scale->runs,
            static fn (ProbeRun $run): bool => $run->at >= $window->from && $run->at < $to,
        ));
        if ($scale->idleUs === null || $runs === []) {
            return null;
        }
        $ratios = Spread::known(array_map($scale->ratio(...), $runs));
        $most = max(4.0, ...$ratios);
        $bands = self::bands($scale, $window->from, $to);
        foreach ($bands as [, , , $high]) {
            $most = max($most, $high);
        }
        $frame = new Frame(
            'probe',
            'Probe',
            self::summary($ratios, count($runs) - count($ratios)),
            Axis::even((float) $window->from, (float) $to),
            Axis::magnitudes(0.7, $most * 1.25),
            height: self::HEIGHT,
            left: 76,
            top: 16,
        );
        $times = static fn (float $value): string => '× '.Quantity::digits($value);
        $frame->grid(array_values(array_filter([1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1_000.0],
            static fn (float $tick): bool => $tick <= $most * 1.25)), $times);
        $frame->along(Scale::times($window->from, $to, $zone), within: true);
        foreach ($bands as [$from, $until, $low, $high]) {
            $frame->box('usual', $frame->x($from), $frame->y($high), max(0.5, $frame->x($until) - $frame->x($from)),
                max(1.0, $frame->y($low) - $frame->y($high)));
        }
        $rows = count($runs) <= self::MOST_MARKS ? self::marks($frame, $scale, $runs, $zone)
            : self::strokes($frame, $scale, $runs, $window->from, $to, $zone);
        if ($asked !== null && $asked >= $window->from && $asked < $to) {
            self::ring($frame, $scale, $asked);
        }

        return $frame->figure('Each run, as times as long as the fastest twentieth of all runs, which is taken for idle: '
            .Quantity::duration($scale->idleUs).'. The band holds 8 of 10 runs of the same hour of the week before, or of the same hour of '
            .'the day where that is not known for two weeks yet. A cross at the top is a run that failed.',
            ['when', 'runs', 'times as long as when idle', 'took'], $rows);
    }

    /**
     * @return list<array{int, int, float, float}> from, until, low and high of each hour
     */
    private static function bands(ProbeScale $scale, int $from, int $to): array
    {
        $bands = [];
        for ($at = $from - $from % self::HOUR; $at < $to; $at += self::HOUR) {
            $usual = $scale->usual($at);
            if ($usual !== null) {
                $bands[] = [max($from, $at), min($to, $at + self::HOUR), $usual->low, $usual->high];
            }
        }

        return $bands;
    }

    /**
     * @param  list<ProbeRun>  $runs
     * @return list<list<string>>
     */
    private static function marks(Frame $frame, ProbeScale $scale, array $runs, DateTimeZone $zone): array
    {
        $rows = [];
        foreach ($runs as $run) {
            $when = moment($run->at * 1_000_000, MomentStyle::Second, $zone);
            $ratio = $scale->ratio($run);
            if ($ratio === null) {
                self::failed($frame, $run->at, "{$when}: failed");
            } else {
                $frame->dot(self::isUnusual($scale, $run, $ratio) ? 'run odd' : 'run', $frame->x($run->at), $frame->y($ratio), 2.6,
                    "{$when}: {$scale->ratio($run)} times, ".Quantity::duration((float) $run->tookUs));
            }
            $rows[] = [$when, '1', $ratio === null ? 'failed' : Quantity::digits($ratio), $ratio === null ? Quantity::NONE
                : Quantity::duration((float) $run->tookUs)];
        }

        return $rows;
    }

    /**
     * @param  list<ProbeRun>  $runs
     * @return list<list<string>>
     */
    private static function strokes(Frame $frame, ProbeScale $scale, array $runs, int $from, int $to, DateTimeZone $zone): array
    {
        $step = Steps::shortest($to - $from, self::STEPS, self::MOST_MARKS);
        $by = [];
        foreach ($runs as $run) {
            $by[$run->at - $run->at % $step][] = $run;
        }
        $rows = [];
        foreach ($by as $at => $some) {
            $ratios = Spread::known(array_map($scale->ratio(...), $some));
            $when = moment($at * 1_000_000, MomentStyle::Minute, $zone);
            $middle = $ratios === [] ? null : Spread::median($ratios);
            if (count($ratios) < count($some)) {
                self::failed($frame, $at, "{$when}: ".(count($some) - count($ratios)).' of '.count($some).' failed');
            }
            if ($middle !== null) {
                $x = $frame->x(min($to - 1, $at + $step / 2));
                $class = self::isUnusual($scale, $some[0], $middle) ? 'run odd' : 'run';
                $frame->stroke($class, $x, $frame->y(Spread::quantile($ratios, 0.1)), $x, $frame->y(Spread::quantile($ratios, 0.9)));
                $frame->dot($class, $x, $frame->y($middle), 1.9, "{$when}: ".Quantity::digits($middle).' times in the middle of '
                    .count($ratios).' runs');
            }
            $rows[] = [$when, (string) count($some), $middle === null ? 'failed' : Quantity::digits($middle),
                $middle === null || $scale->idleUs === null ? Quantity::NONE : Quantity::duration($middle * $scale->idleUs)];
        }

        return $rows;
    }

    /** Whether it is beyond what is usual, and slow at all. */
    private static function isUnusual(ProbeScale $scale, ProbeRun $run, float $ratio): bool
    {
        $usual = $scale->usual($run->at);

        return $ratio >= 2.0 && ($usual === null || $ratio > $usual->high);
    }

    private static function failed(Frame $frame, int $at, string $said): void
    {
        [$x, $y] = [Svg::number($frame->x($at)), Svg::number($frame->top + self::FAILED)];
        $frame->add("<g class=\"failed\"><path d=\"M{$x} {$y}m-4 -4l8 8m0 -8l-8 8\"/><title>".Svg::escape($said).'</title></g>');
    }

    private static function ring(Frame $frame, ProbeScale $scale, int $asked): void
    {
        $x = $frame->x($asked);
        $middle = $scale->middle($asked - 300, $asked + 300);
        $frame->stroke('mark', $x, $frame->top, $x, $frame->bottom);
        if ($middle !== null) {
            $frame->dot('ring', $x, $frame->y($middle[0]), 8, 'the moment that is asked for');
        }
    }

    /**
     * @param  array<float>  $ratios
     */
    private static function summary(array $ratios, int $failed): string
    {
        $some = $ratios === [] ? 'No run ended well' : 'In the middle '.Quantity::digits(Spread::median($ratios)).' times as long as when '
            .'idle, '.Quantity::digits(max($ratios)).' times at most, of '.Quantity::count(count($ratios)).' runs';

        return $some.($failed === 0 ? '.' : '; '.Quantity::count($failed).' failed.');
    }
}
