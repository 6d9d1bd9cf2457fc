<?php

declare(strict_types=1);

namespace App\Jobs\Charts;

use App\Jobs\Application\JobFindings;
use App\Jobs\Models\JobRun;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Scale;
use App\Platform\Figures\Svg;
use DateTimeZone;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Text\Quantity;

/**
 * The runs of a job over weeks: how long each took, and what was predicted of it.
 */
final readonly class NightsFigure
{
    private const WIDTH = 1180;

    private const HEIGHT = 190;

    private const LEFT = 80;

    private const TOP = 12;

    private const BOTTOM = 24;

    /**
     * @param  list<JobRun>  $runs oldest first
     */
    public static function draw(array $runs, DateTimeZone $zone): Figure
    {
        $most = max(1, ...array_map(static fn (JobRun $run): int => max($run->elapsedUs(), $run->predicted_us ?? 0), $runs));
        // A deadline far above would press the runs flat.
        $limits = array_filter(
            array_map(static fn (JobRun $run): int => $run->deadline_us < 0 ? 0 : $run->deadline_us - $run->started_us, $runs),
            static fn (int $us): bool => $us > 0 && $us < 2 * $most,
        );
        $most = max([$most, ...$limits]);
        $ticks = Scale::durations((float) $most);
        $top = end($ticks) ?: 1.0;
        $y = static fn (float $us): float => self::TOP + (1 - $us / $top) * (self::HEIGHT - self::TOP - self::BOTTOM);
        $width = (self::WIDTH - self::LEFT - 8) / max(1, count($runs));
        $n = Svg::number(...);
        $errors = array_map(
            static fn (JobRun $run): float => abs((float) $run->prediction_error),
            array_filter($runs, static fn (JobRun $run): bool => $run->prediction_error !== null),
        );
        sort($errors);
        $summary =
            count($runs).
            ' runs; '.
            ($errors === []
                ? 'nothing was predicted yet.'
                : 'what the run before foretold was off by '.
                    Quantity::percent(Spread::median($errors)).
                    ' in the middle and '.
                    Quantity::percent(max($errors)).
                    ' at worst.');
        $svg =
            '<svg class="figure-svg" viewBox="0 0 '.
            self::WIDTH.
            ' '.
            self::HEIGHT.
            '" role="group" aria-labelledby="nights-title nights-desc"><title id="nights-title">Runs</title><desc id="nights-desc">'.
            Svg::escape($summary).
            '</desc>';
        foreach ($ticks as $tick) {
            $svg .=
                '<line class="grid" x1="'.
                self::LEFT.
                '" x2="'.
                (self::WIDTH - 8).
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
        $rows = [];
        foreach ($runs as $i => $run) {
            $when = (new \DateTimeImmutable('@'.intdiv(max(0, $run->started_us), 1_000_000)))->setTimezone($zone)->format('D j M H:i');
            $left = self::LEFT + $i * $width;
            $late = $run->isLate() === true;
            $title =
                "{$when}: ".
                Quantity::duration($run->elapsedUs()).
                ' with '.
                Quantity::count($run->workers).
                ' workers, '.
                Quantity::bytes($run->input_bytes).
                ' read in'.
                ($run->predicted_us === null ? '' : '; predicted '.Quantity::duration($run->predicted_us)).
                ($late ? '; late' : '').
                ($run->state === 'failed' ? '; failed' : '');
            $svg .=
                '<a href="'.
                address('job.show', $run->id).
                '"><rect class="night-bar'.
                ($late || $run->state === 'failed' ? ' late' : '').
                '" x="'.
                $n($left + 0.15 * $width).
                '" y="'.
                $n($y($run->elapsedUs())).
                '" width="'.
                $n(0.7 * $width).
                '" height="'.
                $n(max(1.0, $y(0) - $y($run->elapsedUs()))).
                '"><title>'.
                Svg::escape($title).
                '</title></rect></a>';
            if ($run->predicted_us !== null) {
                $svg .=
                    '<line class="foretold" x1="'.
                    $n($left + 0.02 * $width).
                    '" x2="'.
                    $n($left + 0.98 * $width).
                    '" y1="'.
                    $n($y($run->predicted_us)).
                    '" y2="'.
                    $n($y($run->predicted_us)).
                    '"/>';
            }
            if ($run->deadline_us >= 0 && $run->deadline_us - $run->started_us <= $top) {
                $svg .=
                    '<line class="limit" x1="'.
                    $n($left).
                    '" x2="'.
                    $n($left + $width).
                    '" y1="'.
                    $n($y($run->deadline_us - $run->started_us)).
                    '" y2="'.
                    $n($y($run->deadline_us - $run->started_us)).
                    '"/>';
            }
            if ($i % max(1, (int) ceil(count($runs) / 9)) === 0) {
                $svg .=
                    '<text class="tick" x="'.
                    $n($left + $width / 2).
                    '" y="'.
                    (self::HEIGHT - 6).
                    '" text-anchor="middle">'.
                    substr($when, 0, -6).
                    '</text>';
            }
            $rows[] = [
                $when,
                $run->state,
                Quantity::count($run->workers),
                Quantity::duration($run->elapsedUs()),
                Quantity::duration($run->predicted_us),
                $run->prediction_error === null ? Quantity::NONE : Quantity::percent($run->prediction_error),
                Quantity::bytes($run->input_bytes),
                JobFindings::money($run->cost(), $run),
                Quantity::percent($run->idle_share),
                $run->isLate() === null ? Quantity::NONE : ($late ? 'late' : 'in time'),
            ];
        }

        return new Figure(
            $svg.'</svg>',
            $summary,
            'Bars are what a run took, hatched where it was late or failed; the short lines are what the run before foretold, with the '
                .'workers and the input of the run itself; the long line is the deadline'.
                ($limits === [] ? ', which lies far above or is not set' : '').
                '.',
            ['run', 'state', 'workers', 'took', 'predicted', 'off by', 'input', 'cost', 'idle', 'deadline'],
            $rows,
        );
    }
}
