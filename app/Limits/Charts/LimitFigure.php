<?php

declare(strict_types=1);

namespace App\Limits\Charts;

use App\Limits\Application\LimitStair;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Figures\Svg;
use App\Platform\Support\MomentStyle;
use App\Telemetry\Usage\Amount;
use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Calendar;

/**
 * Use in the period as a stair with the thresholds as rails; each act a mark where it happened, statements held as lozenges on the rail.
 */
final readonly class LimitFigure
{
    private const HEIGHT = 300;

    /** Half of a lozenge, at least and at most. */
    private const LEAST = 3.0;

    private const MOST = 8.0;

    /** Across the whole figure. */
    private const LOZENGES = 64;

    private const LINE = 15;

    public static function draw(LimitStair $stair, string $sentence): Figure
    {
        $limit = $stair->limit;
        $top = (float) $limit->limit->amount;
        foreach ([...$stair->stairs, ...$stair->wanted] as $points) {
            $top = max([$top, ...array_column($points, 1)]);
        }
        $ticks = self::ticks($limit->limit->measure, $top);
        $frame = new Frame(
            $stair->isTrial ? 'limit-past' : 'limit-now',
            $limit->title(),
            "{$sentence}.",
            Axis::even((float) $stair->from, (float) $stair->to),
            Axis::upTo($ticks),
            height: self::HEIGHT,
            top: 16,
            beside: 120,
            below: 26,
        );
        $frame->grid($ticks, $limit->amount(...));
        $frame->along(Scale::times($stair->from, $stair->to, app(Calendar::class)->zone), within: true, marks: true);
        $isSingle = $limit->limit->period === LimitPeriod::Statement;
        foreach ($stair->wanted as $points) {
            $frame->line('ghost', self::steps($points));
        }
        foreach ($stair->stairs as $points) {
            if (! $isSingle) {
                $frame->line('line s1', self::steps($points));
            }
            foreach ($isSingle ? $points : [] as [$at, $amount]) {
                $frame->stroke('line s1', $frame->x((float) $at), $frame->bottom, $frame->x((float) $at), $frame->y($amount));
            }
        }
        self::rails($frame, $stair);
        foreach ($stair->acts as [$at, $used, $said]) {
            $frame->dot('act-mark', $frame->x((float) $at), $frame->y($used), 4.5, "{$said}, ".onClocks($at, MomentStyle::Minute));
        }
        self::held($frame, $stair);

        return $frame->figure(
            ($isSingle ? 'Upright: the statement that used most, by its mean in each hour. '
                : 'The stair: what was used, hour by hour added up, from nothing in each period. ').
                'Dashed rails: the shares at which something is done; a dot where it '.($stair->isTrial ? 'would have been' : 'was').
                ', lozenges on the rail for statements held, larger for more.'.($stair->wanted === [] ? ''
                    : ' Thin: what was really used. Modelled: use within an hour is taken to be even.'),
            ['hour', 'used so far', 'done', 'held'],
            self::rows($stair),
        );
    }

    /**
     * @return list<float>
     */
    private static function ticks(LimitMeasure $measure, float $top): array
    {
        return $measure === LimitMeasure::Cost
            ? array_map(static fn (float $tick): float => $tick * LimitMeasure::MONEY, Scale::ticks($top / LimitMeasure::MONEY, 4))
            : Amount::ticks($measure->usage(), $top);
    }

    /**
     * Up at once, then on: an hour's use is known at its end.
     *
     * @param  list<array{int, float}>  $points
     * @return list<array{float, float}>
     */
    private static function steps(array $points): array
    {
        $steps = [];
        $before = null;
        foreach ($points as [$at, $amount]) {
            if ($before !== null) {
                $steps[] = [(float) $at, $before];
            }
            $steps[] = [(float) $at, $amount];
            $before = $amount;
        }

        return $steps;
    }

    private static function rails(Frame $frame, LimitStair $stair): void
    {
        $free = INF;
        foreach ($stair->limit->limit->thresholds as $threshold) {
            $y = $frame->y((float) $threshold->of($stair->limit->limit->amount));
            $frame->stroke($threshold->act === Act::Hold ? 'limit' : 'rail', $frame->left, $y, $frame->right, $y);
            // Rails that run close together have their names above one another.
            $at = min($y + 4, $free);
            $frame->text($frame->right + 8, $at, "{$threshold->percent}% {$threshold->act->value}", 'tick', '');
            $free = $at - self::LINE;
        }
    }

    private static function held(Frame $frame, LimitStair $stair): void
    {
        $holdsAt = $stair->limit->limit->holdsAt();
        $y = $frame->y((float) ($holdsAt ?? $stair->limit->limit->amount));
        // So many that they would overlap stand together.
        $span = max(3600, (int) ceil(($stair->to - $stair->from) / self::LOZENGES));
        $held = [];
        foreach ($stair->held as $at => $count) {
            $place = $stair->from + intdiv($at - $stair->from, $span) * $span;
            $held[$place] = ($held[$place] ?? 0.0) + $count;
        }
        $most = max([1.0, ...array_values($held)]);
        foreach ($held as $at => $count) {
            $half = max(self::LEAST, self::MOST * sqrt($count / $most));
            $x = $frame->x(min((float) $stair->to, $at + $span / 2));
            $said = Quantity::short(round($count)).' held, from '.onClocks($at, MomentStyle::Minute);
            $frame->add('<path class="held" d="'.Svg::path([
                [$x, $y - $half], [$x + $half, $y], [$x, $y + $half], [$x - $half, $y], [$x, $y - $half],
            ]).'"><title>'.Svg::escape($said).'</title></path>');
        }
    }

    /**
     * @return list<list<string>>
     */
    private static function rows(LimitStair $stair): array
    {
        $done = [];
        foreach ($stair->acts as [$at, , $said]) {
            $hour = $at - $at % 3600;
            $done[$hour] = isset($done[$hour]) ? "{$done[$hour]}; {$said}" : $said;
        }
        $used = [];
        foreach ($stair->stairs as $points) {
            foreach ($points as [$at, $amount]) {
                $used[$at - 1 - ($at - 1) % 3600] = $amount;
            }
        }
        $hours = array_unique([...array_keys($used), ...array_keys($done), ...array_keys($stair->held)]);
        sort($hours);

        return array_map(static fn (int $hour): array => [
            onClocks($hour, MomentStyle::Minute),
            isset($used[$hour]) ? $stair->limit->amount($used[$hour]) : '',
            $done[$hour] ?? '',
            isset($stair->held[$hour]) ? Quantity::short(round($stair->held[$hour])) : '',
        ], $hours);
    }
}
