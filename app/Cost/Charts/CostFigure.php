<?php

declare(strict_types=1);

namespace App\Cost\Charts;

use App\Cost\Application\CostPage;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Figures\StackFigure;
use App\Platform\Figures\Svg;
use App\Platform\Support\Money;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Allocation;

/**
 * One bar a team: filled its part of the fixed cost, hatched the cost its own use made; idle time is hollow.
 */
final readonly class CostFigure
{
    private const ROW = 26;

    private const MOST = 12;

    public static function draw(CostPage $page): Figure
    {
        $teams = $page->foremost(self::MOST);
        $number = static fn (BigDecimal $amount): float => $amount->toFloat();
        $most = max([1.0, ...array_map(static fn (array $one): float => $number($one['all']), array_values($teams))]);
        $ticks = Scale::ticks($most, 4);
        $frame = new Frame(
            'cost',
            "Cost by {$page->byLabel()}",
            $page->sentence().'.',
            Axis::upTo($ticks),
            Axis::even(0.0, 1.0),
            height: count($teams) * self::ROW + 40,
            left: 190,
            top: 20,
            beside: 130,
        );
        $frame->add(StackFigure::patterns('cost', 2));
        foreach ($ticks as $tick) {
            $x = $frame->x($tick);
            $frame->stroke('grid', $x, 16, $x, 22 + count($teams) * self::ROW);
            $frame->text($x, 12, Money::plain($tick, $page->currency), 'tick');
        }
        $rows = [];
        $i = 0;
        foreach ($teams as $team => $cost) {
            $y = 22 + $i * self::ROW;
            $name = $page->name($team);
            $shared = $frame->x($number($cost['shared'])) - $frame->left;
            $own = $frame->x($number($cost['own'])) - $frame->left;
            $frame->text($frame->left - 8, $y + 14, mb_strimwidth($name, 0, 26, '…'), 'tick', 'end');
            $isIdle = $team === Allocation::IDLE;
            $frame->box(
                $isIdle ? 'before-bar' : 'bar s1',
                $frame->left,
                $y + 2,
                max(0.0, $shared),
                self::ROW - 9,
                "{$name}, fixed cost: {$page->money($cost['shared'])}",
            );
            $frame->box(
                $isIdle ? 'before-bar' : 'bar s2',
                $frame->left + $shared,
                $y + 2,
                max(0.0, $own),
                self::ROW - 9,
                "{$name}, cost of its use: {$page->money($cost['own'])}",
            );
            if ($own > 0) {
                [$x, $w] = [Svg::number($frame->left + $shared), Svg::number($own)];
                $frame->add("<rect class=\"hatch\" fill=\"url(#cost-h2)\" x=\"{$x}\" y=\"".($y + 2)."\" width=\"{$w}\" height=\""
                    .(self::ROW - 9).'"/>');
            }
            $frame->text($frame->left + $shared + $own + 6, $y + 14, $page->money($cost['all']), 'tick strong', '');
            $rows[] = [$name, $page->money($cost['shared']), $page->money($cost['own']), $page->money($cost['all'])];
            $i++;
        }

        return $frame->figure(
            'Computed from the price book and recorded usage. Parts are whole cents and add up to the cost of the clusters.',
            [$page->byLabel(), 'fixed', 'by use', 'all'],
            $rows,
        );
    }
}
