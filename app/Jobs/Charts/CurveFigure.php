<?php

declare(strict_types=1);

namespace App\Jobs\Charts;

use App\Jobs\Application\JobFindings;
use App\Jobs\Models\JobRun;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use Fulcrion\Core\Text\Quantity;

/**
 * Time against cost of every number of workers that was reckoned through, with what fits which aim.
 */
final readonly class CurveFigure
{
    /** Round times of runs. */
    private const SECONDS = [
        1, 5, 15, 60, 300, 900, 1800, 3600, 7200, 14_400, 43_200, 86_400, 259_200, 864_000, 2_592_000,
    ];

    public const NAMES = [
        'cheapest' => 'cheapest',
        'knee' => 'best value',
        'deadline' => 'in time',
        'budget' => 'within the sum',
        'ceiling' => 'fastest',
    ];

    public static function draw(JobRun $run, ?float $budget): ?Figure
    {
        /** @var list<array{workers: int, timeUs: int, idle: float}> $points */
        $points = $run->analysis['points'] ?? [];
        /** @var array<string, array{workers: int, timeUs: int, idle: float}> $marks */
        $marks = $run->analysis['marks'] ?? [];
        if (count($points) < 2) {
            return null;
        }
        $cost = static fn (array $p): float => $p['workers'] * ($p['timeUs'] / 3.6e9) * ($run->price ?? 1.0);
        $deadlineUs = $run->deadline_us >= 0 ? $run->deadline_us - $run->started_us : null;
        $here = ['workers' => $run->workers, 'timeUs' => $run->elapsedUs(), 'idle' => $run->idle_share];
        $times = array_column([...$points, $here], 'timeUs');
        $costs = array_map($cost, [...$points, $here]);
        [$fast, $slow] = [max(1.0, min($times) * 0.85), max(2.0, max($times) * 1.7)];
        [$low, $high] = [max(1e-9, min($costs) * 0.93), max($costs) * 1.07];
        $money = static fn (float $sum): string => JobFindings::money($sum, $run);
        $summary =
            'From '.
            Quantity::duration(max($times)).
            ' for '.
            $money(min($costs)).
            ' to '.
            Quantity::duration(min($times)).
            ' for '.
            $money(max($costs)).
            '; the run took '.
            Quantity::duration($run->elapsedUs()).
            ' and cost '.
            $money($run->cost()).
            '.';
        // Both over magnitudes: between one worker and a thousand lie three.
        [$cheap, $quick] = [Axis::magnitudes($low, $high), Axis::magnitudes($fast, $slow)];
        $frame = new Frame(
            'curve',
            'Time against cost',
            $summary,
            $cheap,
            $quick,
            height: 320,
            left: 96,
            top: 22,
            below: 46,
            beside: 24,
            links: true,
        );
        $ticks = array_map(static fn (int $seconds): float => $seconds * 1e6, self::SECONDS);
        $sums = [];
        $steps = $high / $low > 6 ? [1.0, 2.0, 5.0] : [1.0, 1.5, 2.0, 3.0, 4.0, 5.0, 7.0];
        for ($i = 0; $i < 16 * count($steps); $i++) {
            $tick = $steps[$i % count($steps)] * 10 ** (intdiv($i, count($steps)) - 5);
            if ($cheap->holds($tick)) {
                $sums[(string) $tick] = $money($tick);
            }
        }
        $frame->grid(array_filter($ticks, $quick->holds(...)), Quantity::duration(...), 8)->along($sums, 26, marks: true)
            ->names('time of the run', 'cost of the run, idle workers paid');
        if ($deadlineUs !== null && $quick->holds($deadlineUs)) {
            $frame->limitAcross($deadlineUs, 'deadline, '.Quantity::duration($deadlineUs));
        }
        if ($budget !== null && $cheap->holds($budget)) {
            $frame->limitUp($budget, 'sum, '.$money($budget));
        }
        $frame->line('line s1', array_map(static fn (array $p): array => [$cost($p), (float) $p['timeUs']], $points));
        foreach ($points as $p) {
            [$px, $py] = [$frame->x($cost($p)), $frame->y($p['timeUs'])];
            $frame->add('<a href="#workers" data-workers="'.$p['workers'].'">')->dot('dot s1', $px, $py, 3)->box(
                'catch',
                $px - 7,
                $py - 7,
                14,
                14,
                Quantity::count($p['workers']).
                    ' workers: '.
                    Quantity::duration($p['timeUs']).
                    ', '.
                    $money($cost($p)).
                    ', '.
                    Quantity::percent($p['idle']).
                    ' idle',
            )->add('</a>');
        }
        $names = self::names($marks);
        $labels = [];
        foreach ($marks as $p) {
            $text = $names[$p['workers']].': '.Quantity::count($p['workers']);
            $labels[$p['workers']] = [$frame->x($cost($p)), $frame->y($p['timeUs']), $text];
        }
        $labels[-1] = [$frame->x($run->cost()), $frame->y($run->elapsedUs()), 'this run: '.Quantity::count($run->workers)];
        self::label($frame, $labels);
        $rows = array_map(
            static fn (array $p): array => [
                Quantity::count($p['workers']),
                Quantity::duration($p['timeUs']),
                $money($cost($p)),
                Quantity::percent($p['idle']),
                $names[$p['workers']] ?? '',
            ],
            $points,
        );

        return $frame->figure(
            'Modelled: the recorded tasks scheduled again, in the recorded order, on '.
                count($points).
                ' numbers of workers; between them the line is read off, at most '.
                Quantity::percent($run->analysis['miss'] ?? 0).
                ' off in the middle of a gap. With the recorded number the model is '.
                Quantity::percent(abs((float) ($run->analysis['fit'] ?? 0))).
                ' off. Both axes run over magnitudes.',
            ['workers', 'time', 'cost', 'idle', 'fits'],
            $rows,
        );
    }

    /**
     * Aims that fall on one number share a name.
     *
     * @param  array<string, array{workers: int, timeUs: int, idle: float}>  $marks by aim
     * @return array<int, string> by number of workers
     */
    private static function names(array $marks): array
    {
        $names = [];
        foreach ($marks as $aim => $p) {
            $names[$p['workers']] = (isset($names[$p['workers']]) ? $names[$p['workers']].', ' : '').self::NAMES[$aim];
        }

        return $names;
    }

    /**
     * Names go down the figure where they would cover each other.
     *
     * @param  array<int, array{float, float, string}>  $labels across, up, text by number of workers; -1 for the run itself
     */
    private static function label(Frame $frame, array $labels): void
    {
        $placed = [];
        foreach ($labels as $workers => [$px, $py, $text]) {
            $end = $px > Frame::WIDTH - 190;
            $ty = $py - 10;
            for ($i = 0; $i < 12; $i++) {
                $clash = array_filter($placed, static fn (array $other): bool => abs($other[0] - $px) < 170 && abs($other[1] - $ty) < 15);
                if ($clash === []) {
                    break;
                }
                $ty += 16;
            }
            $placed[] = [$px, $ty];
            $workers === -1 ? $frame->box('dot s2', $px - 5, $py - 5, 10, 10) : $frame->dot('ring', $px, $py, 8);
            $frame->text($end ? $px - 12 : $px + 12, $ty, $text, 'tick strong halo', $end ? 'end' : 'start');
        }
    }
}
