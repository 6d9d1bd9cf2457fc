<?php

declare(strict_types=1);

namespace App\Alerts\Charts;

use App\Alerts\Application\AlertWords;
use App\Alerts\Application\Rehearsal;
use App\Alerts\Models\Alert;
use App\Metrics\Signals\Signal;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Figures\Svg;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Alerts\AlertRing;
use Fulcrion\Core\Alerts\Watched;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Text\Quantity;

/**
 * The measure over 28 days with the threshold as a line that can be moved; the times it would have rung are filled, and what people marked
 * stands over it as brackets: solid where it was caught, broken where it was missed.
 */
final readonly class RehearsalFigure
{
    private const HEIGHT = 300;

    /** Points of the line across. */
    private const POINTS = 560;

    public static function draw(Rehearsal $rehearsal, Alert $alert, ?Signal $signal, DateTimeZone $zone): ?Figure
    {
        if (! $rehearsal->isKnown()) {
            return null;
        }
        $worst = self::worst($rehearsal, $alert);
        $known = [0.0, ...Spread::known(array_column($worst, 1))];
        $scale = AlertWords::scale($alert->watched, $signal);
        // Days that are years away would leave no room for those that matter.
        $most = max(1e-9, $alert->watched === Watched::DaysLeft ? min(max($known), 4 * max($alert->threshold, 1.0)) : max($known),
            $alert->threshold, $alert->calm) * 1.08;
        $ticks = array_map(static fn (float $tick): float => $tick * $scale, Scale::ticks($most / $scale, 4));
        if ($alert->watched === Watched::Value && $signal?->unit === '%' && $most <= 1.1 * 100 * $scale) {
            $ticks = array_map(static fn (int $tick): float => $tick * $scale, [0, 25, 50, 75, 100]);
        }
        $top = max(0.0, ...$ticks);
        $frame = new Frame(
            'rehearsal',
            'Rehearsed on the last 28 days',
            $rehearsal->sentence().'.',
            Axis::even((float) $rehearsal->from, (float) $rehearsal->to),
            Axis::upTo($ticks),
            height: self::HEIGHT,
            left: 76,
            top: 34,
            // It holds the threshold, which can be moved.
            links: true,
        );
        $frame->grid($ticks, static fn (float $tick): string => Quantity::digits($tick / $scale));
        $frame->along(Scale::times($rehearsal->from, $rehearsal->to, $zone), within: true);
        $frame->names(AlertWords::unit($alert->watched, $signal), '');
        foreach ($rehearsal->rings as $ring) {
            $to = $ring->to ?? $rehearsal->to;
            $left = $frame->x((float) max($ring->from, $rehearsal->from));
            $frame->box('rang', $left, $frame->top, max(1.5, $frame->x((float) $to) - $left), $frame->bottom - $frame->top,
                self::said($ring, $alert, $signal, $rehearsal->to, $zone));
        }
        $frame->broken('line s1', array_map(
            static fn (array $point): array => [$point[0], $point[1] === null ? null : min($top, $point[1])], $worst));
        self::marks($frame, $rehearsal);
        self::threshold($frame, $alert, $signal, $top);

        return $frame->figure(self::how($rehearsal, $alert), ['rang', 'host', 'since', 'until', 'for', 'worst'],
            self::rows($rehearsal, $alert, $signal, $zone));
    }

    /**
     * The worst value of each point: what rings is the worst host.
     *
     * @return list<array{float, float|null}>
     */
    private static function worst(Rehearsal $rehearsal, Alert $alert): array
    {
        $each = max(1, (int) ceil(($rehearsal->to - $rehearsal->from) / $rehearsal->step / self::POINTS));
        $worst = [];
        foreach ($rehearsal->values as $list) {
            foreach ($list as $place => $value) {
                $point = intdiv($place, $each);
                if ($value !== null) {
                    $worst[$point] = isset($worst[$point]) ? $alert->side->worse($worst[$point], $value) : $value;
                }
            }
        }
        $points = [];
        for ($point = 0; ($point * $each * $rehearsal->step) < $rehearsal->to - $rehearsal->from; $point++) {
            $points[] = [$rehearsal->from + ($point + 0.5) * $each * $rehearsal->step, $worst[$point] ?? null];
        }

        return $points;
    }

    private static function marks(Frame $frame, Rehearsal $rehearsal): void
    {
        foreach ($rehearsal->marked as $span) {
            $isCaught = in_array($span, $rehearsal->score->caught, true);
            $left = $frame->x((float) max($span->from, $rehearsal->from));
            $right = max($left + 4, $frame->x((float) min($span->to, $rehearsal->to)));
            [$low, $high] = [Svg::number($frame->top - 2), Svg::number($frame->top - 12)];
            $d = 'M'.Svg::number($left)." {$low}V{$high}H".Svg::number($right)."V{$low}";
            $said = Svg::escape("{$span->name}: ".($isCaught ? 'caught' : 'missed'));
            $frame->add('<path class="bracketed'.($isCaught ? '' : ' missed')."\" d=\"{$d}\"><title>{$said}</title></path>");
        }
    }

    private static function threshold(Frame $frame, Alert $alert, ?Signal $signal, float $top): void
    {
        $scale = AlertWords::scale($alert->watched, $signal);
        if ($alert->calm !== $alert->threshold && $alert->calm >= 0.0) {
            $frame->stroke('calm-line', $frame->left, $frame->y($alert->calm), $frame->right, $frame->y($alert->calm));
        }
        $y = Svg::number($frame->y(max(0.0, $alert->threshold)));
        [$left, $right] = [Svg::number($frame->left), Svg::number($frame->right)];
        $value = $alert->threshold / $scale;
        $frame->add('<g class="threshold" tabindex="0" role="slider" aria-label="Threshold" aria-valuemin="0" aria-valuemax="'
            .Svg::number($top / $scale).'" aria-valuenow="'.Svg::number($value).'" aria-valuetext="'
            .Svg::escape(AlertWords::value($alert, $alert->threshold, $signal)).'" data-top="'.Svg::number($frame->top).'" data-bottom="'
            .Svg::number($frame->bottom)."\" transform=\"translate(0 {$y})\"><line class=\"limit\" x1=\"{$left}\" x2=\"{$right}\"/>"
            ."<rect class=\"grip\" x=\"{$left}\" y=\"-9\" width=\"".Svg::number($frame->right - $frame->left).'" height="18"/>'
            .'<path class="knob" d="M'.Svg::number($frame->right - 16).' 0l8 -6v12z"/></g>');
    }

    private static function said(AlertRing $ring, Alert $alert, ?Signal $signal, int $end, DateTimeZone $zone): string
    {
        $to = $ring->to ?? $end;

        return ($ring->host === '' ? '' : "{$ring->host}, ").moment($ring->from * 1_000_000, MomentStyle::Minute, $zone).', for '
            .Quantity::duration(($to - $ring->from) * 1e6).': '.AlertWords::ring($alert, $ring, $signal);
    }

    /**
     * @return list<list<string>>
     */
    private static function rows(Rehearsal $rehearsal, Alert $alert, ?Signal $signal, DateTimeZone $zone): array
    {
        $at = static fn (int $second): string => moment($second * 1_000_000, MomentStyle::Minute, $zone);

        return array_map(static fn (AlertRing $ring): array => [
            $at($ring->rangAt), $ring->host, $at($ring->from), $ring->to === null ? 'goes on' : $at($ring->to),
            Quantity::duration((($ring->to ?? $rehearsal->to) - $ring->from) * 1e6),
            $alert->share === null ? AlertWords::value($alert, $ring->worst, $signal) : Quantity::percent($ring->worst),
        ], $rehearsal->rings);
    }

    private static function how(Rehearsal $rehearsal, Alert $alert): string
    {
        $hosts = count($rehearsal->values);

        return 'The worst '.($hosts > 1 ? "of {$hosts} hosts" : 'value').' at each time, in steps of '
            .Quantity::duration($rehearsal->step * 1e6).'. Filled: it would have rung. '
            .($alert->watched === Watched::Usual ? 'Usual is the middle of the same hours of up to four weeks before; the first two weeks '
                .'have none. ' : '').'Brackets: times that were marked, broken where it would have been missed.';
    }
}
