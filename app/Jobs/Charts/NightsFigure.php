<?php

declare(strict_types=1);

namespace App\Jobs\Charts;

use App\Jobs\Application\JobFindings;
use App\Jobs\Models\JobRun;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use DateTimeZone;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Text\Quantity;

/**
 * The runs of a job over weeks: how long each took, and what was predicted of it.
 */
final readonly class NightsFigure
{
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
        $top = Axis::top($ticks);
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
        $frame = new Frame(
            'nights',
            'Runs',
            $summary,
            Axis::even(0.0, (float) max(1, count($runs))),
            Axis::upTo($ticks),
            height: 190,
            left: 80,
            top: 12,
            links: true,
        );
        $width = $frame->x(1.0) - $frame->left;
        $frame->grid($ticks, Quantity::duration(...));
        $rows = [];
        foreach ($runs as $i => $run) {
            $when = moment(max(0, $run->started_us), zone: $zone);
            $left = $frame->x($i);
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
            $height = max(1.0, $frame->y(0) - $frame->y($run->elapsedUs()));
            $frame->box(
                'night-bar'.($late || $run->state === 'failed' ? ' late' : ''),
                $left + 0.15 * $width,
                $frame->y($run->elapsedUs()),
                0.7 * $width,
                $height,
                $title,
                address('job.show', $run->id),
            );
            if ($run->predicted_us !== null) {
                $frame->line('foretold', [[$i + 0.02, (float) $run->predicted_us], [$i + 0.98, (float) $run->predicted_us]]);
            }
            if ($run->deadline_us >= 0 && $run->deadline_us - $run->started_us <= $top) {
                $frame->limitAcross($run->deadline_us - $run->started_us, from: $left, to: $left + $width);
            }
            if ($i % max(1, (int) ceil(count($runs) / 9)) === 0) {
                $frame->text($left + $width / 2, $frame->height - 6, substr($when, 0, -6));
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

        return $frame->figure(
            'Bars are what a run took, hatched where it was late or failed; the short lines are what the run before foretold, with the '
                .'workers and the input of the run itself; the long line is the deadline'.
                ($limits === [] ? ', which lies far above or is not set' : '').
                '.',
            ['run', 'state', 'workers', 'took', 'predicted', 'off by', 'input', 'cost', 'idle', 'deadline'],
            $rows,
        );
    }
}
