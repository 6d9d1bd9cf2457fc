<?php

declare(strict_types=1);

namespace App\Jobs\Charts;

use App\Jobs\Application\JobFindings;
use App\Jobs\Models\JobRun;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Svg;
use Fulcrion\Core\Text\Quantity;

/**
 * Time against cost of every number of workers that was reckoned through, with what fits which aim.
 */
final readonly class CurveFigure
{
    private const WIDTH = 1180;

    private const HEIGHT = 320;

    private const LEFT = 96;

    private const TOP = 22;

    private const BOTTOM = 46;

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
        $right = self::WIDTH - 24;
        // Both over magnitudes: between one worker and a thousand lie three.
        $x = static fn (float $value): float => self::LEFT +
            (log(max($low, min($high, $value)) / $low) / log($high / $low)) * ($right - self::LEFT);
        $y = static fn (float $us): float => self::TOP +
            (1 - log(max($fast, min($slow, $us)) / $fast) / log($slow / $fast)) * (self::HEIGHT - self::TOP - self::BOTTOM);
        $n = Svg::number(...);
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
        $svg =
            '<svg class="figure-svg" viewBox="0 0 '.
            self::WIDTH.
            ' '.
            self::HEIGHT.
            '" role="group" aria-labelledby="curve-title curve-desc"><title id="curve-title">Time against cost</title><desc '
                .'id="curve-desc">'.
            Svg::escape($summary).
            '</desc>';
        foreach ([1, 5, 15, 60, 300, 900, 1800, 3600, 7200, 14_400, 43_200, 86_400, 259_200, 864_000, 2_592_000] as $seconds) {
            if ($seconds * 1e6 > $fast && $seconds * 1e6 < $slow) {
                $svg .=
                    '<line class="grid" x1="'.
                    self::LEFT.
                    '" x2="'.
                    $right.
                    '" y1="'.
                    $n($y($seconds * 1e6)).
                    '" y2="'.
                    $n($y($seconds * 1e6)).
                    '"/><text class="tick" x="'.
                    (self::LEFT - 8).
                    '" y="'.
                    $n($y($seconds * 1e6) + 4).
                    '" text-anchor="end">'.
                    Quantity::duration($seconds * 1e6).
                    '</text>';
            }
        }
        $steps = $high / $low > 6 ? [1.0, 2.0, 5.0] : [1.0, 1.5, 2.0, 3.0, 4.0, 5.0, 7.0];
        for ($i = 0; $i < 16 * count($steps); $i++) {
            $tick = $steps[$i % count($steps)] * 10 ** (intdiv($i, count($steps)) - 5);
            if ($tick > $low && $tick < $high) {
                $svg .=
                    '<line class="grid" x1="'.
                    $n($x($tick)).
                    '" x2="'.
                    $n($x($tick)).
                    '" y1="'.
                    (self::HEIGHT - self::BOTTOM).
                    '" y2="'.
                    (self::HEIGHT - self::BOTTOM + 4).
                    '"/><text class="tick" x="'.
                    $n($x($tick)).
                    '" y="'.
                    (self::HEIGHT - 26).
                    '" text-anchor="middle">'.
                    Svg::escape($money($tick)).
                    '</text>';
            }
        }
        $svg .=
            '<text class="tick" x="'.
            self::LEFT.
            '" y="12">time of the run</text><text class="tick" x="'.
            $right.
            '" y="'.
            (self::HEIGHT - 6).
            '" text-anchor="end">cost of the run, idle workers paid</text>';
        if ($deadlineUs !== null && $deadlineUs > $fast && $deadlineUs < $slow) {
            $svg .=
                '<line class="limit" x1="'.
                self::LEFT.
                '" x2="'.
                $right.
                '" y1="'.
                $n($y($deadlineUs)).
                '" y2="'.
                $n($y($deadlineUs)).
                '"/><text class="tick" x="'.
                $right.
                '" y="'.
                $n($y($deadlineUs) - 5).
                '" text-anchor="end">deadline, '.
                Quantity::duration($deadlineUs).
                '</text>';
        }
        if ($budget !== null && $budget > $low && $budget < $high) {
            $svg .=
                '<line class="limit" x1="'.
                $n($x($budget)).
                '" x2="'.
                $n($x($budget)).
                '" y1="'.
                self::TOP.
                '" y2="'.
                (self::HEIGHT - self::BOTTOM).
                '"/><text class="tick" x="'.
                $n($x($budget) + 5).
                '" y="'.
                (self::TOP + 10).
                '">sum, '.
                Svg::escape($money($budget)).
                '</text>';
        }
        $svg .=
            '<path class="line s1" d="'.
            Svg::path(array_map(static fn (array $p): array => [$x($cost($p)), $y($p['timeUs'])], $points)).
            '"/>';
        foreach ($points as $p) {
            $svg .=
                '<a href="#workers" data-workers="'.
                $p['workers'].
                '"><circle class="dot s1" cx="'.
                $n($x($cost($p))).
                '" cy="'.
                $n($y($p['timeUs'])).
                '" r="3"/><rect class="catch" x="'.
                $n($x($cost($p)) - 7).
                '" y="'.
                $n($y($p['timeUs']) - 7).
                '" width="14" height="14"><title>'.
                Svg::escape(
                    Quantity::count($p['workers']).
                        ' workers: '.
                        Quantity::duration($p['timeUs']).
                        ', '.
                        $money($cost($p)).
                        ', '.
                        Quantity::percent($p['idle']).
                        ' idle',
                ).
                '</title></rect></a>';
        }
        // Aims that fall on one number share a name; names go up the figure where they would cover each other.
        $byWorkers = [];
        foreach ($marks as $aim => $p) {
            $byWorkers[$p['workers']][] = self::NAMES[$aim];
        }
        $labels = [];
        foreach ($byWorkers as $workers => $names) {
            foreach ($marks as $p) {
                if ($p['workers'] === $workers) {
                    $labels[$workers] = [$x($cost($p)), $y($p['timeUs']), implode(', ', $names).': '.Quantity::count($workers), $p];
                }
            }
        }
        $labels[-1] = [$x($run->cost()), $y($run->elapsedUs()), 'this run: '.Quantity::count($run->workers), $here];
        $placed = [];
        foreach ($labels as $workers => [$px, $py, $text]) {
            $end = $px > self::WIDTH - 190;
            $ty = $py - 10;
            for ($i = 0; $i < 12; $i++) {
                $clash = array_filter($placed, static fn (array $other): bool => abs($other[0] - $px) < 170 && abs($other[1] - $ty) < 15);
                if ($clash === []) {
                    break;
                }
                $ty += 16;
            }
            $placed[] = [$px, $ty];
            $svg .=
                ($workers === -1
                    ? '<rect class="dot s2" x="'.$n($px - 5).'" y="'.$n($py - 5).'" width="10" height="10"/>'
                    : '<circle class="ring" cx="'.$n($px).'" cy="'.$n($py).'" r="8"/>').
                '<text class="tick strong halo" x="'.
                $n($end ? $px - 12 : $px + 12).
                '" y="'.
                $n($ty).
                '" text-anchor="'.
                ($end ? 'end' : 'start').
                '">'.
                Svg::escape($text).
                '</text>';
        }
        $names = [];
        foreach ($byWorkers as $workers => $list) {
            $names[$workers] = implode(', ', $list);
        }
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

        return new Figure(
            $svg.'</svg>',
            $summary,
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
}
