<?php

declare(strict_types=1);

namespace App\Cost\Charts;

use App\Cost\Application\Budget;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Support\MomentStyle;
use App\Platform\Support\Money;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Days;

/**
 * A line a budget, as long as its month or quarter: its days as ticks, a mark for today, filled what is spent, a stop at the whole budget.
 * Whose fill is right of today spends faster than the time goes by.
 */
final readonly class BudgetsFigure
{
    private const ROW = 34;

    private const BAR = 14;

    /** What is spent beyond the budget is drawn up to this part of it. */
    private const MOST = 1.25;

    /**
     * @param  non-empty-list<Budget>  $budgets
     */
    public static function draw(array $budgets, string $sentence): Figure
    {
        $frame = new Frame(
            'budgets',
            'Budgets',
            "{$sentence}.",
            Axis::even(0.0, self::MOST),
            Axis::even(0.0, 1.0),
            height: count($budgets) * self::ROW + 26,
            left: 210,
            top: 8,
            beside: 150,
            links: true,
        );
        $frame->hatch('budget-hatch', 'fan-line');
        $rows = [];
        foreach ($budgets as $i => $one) {
            $y = 10 + $i * self::ROW;
            $frame->text($frame->left - 10, $y + 12, mb_strimwidth($one->whose(), 0, 30, '…'), 'tick strong', 'end');
            self::days($frame, $one, $y);
            $use = $one->use;
            if ($use !== null) {
                $share = $use->share();
                $said = "{$one->whose()}: ".Quantity::percent($share).' of the budget spent, '.Quantity::percent($use->gone).
                    ' of the time over';
                $end = $frame->x(min(self::MOST, $share));
                $class = 'after-bar'.($one->mark() === 'calm' ? '' : ' worse');
                $expected = $one->expected();
                if ($expected !== null && $expected > $share && $share < self::MOST) {
                    $frame->box('expected-bar', $end, $y, $frame->x(min(self::MOST, $expected)) - $end, self::BAR,
                        "{$one->whose()}: ".Quantity::percent($expected).' of the budget expected at the end');
                }
                $frame->box($class, $frame->left, $y, max(1.0, $end - $frame->left), self::BAR, $said,
                    $one->of === 'team' ? address('team.show', ['team' => $one->name]) : address('cost.index'));
                $frame->stroke('mark', $frame->x($use->gone), $y - 4, $frame->x($use->gone), $y + self::BAR + 4);
            }
            $frame->stroke('limit', $frame->x(1.0), $y - 4, $frame->x(1.0), $y + self::BAR + 4);
            $frame->text($frame->right + 8, $y + 12, $use === null ? $one->standing()
                : Quantity::percent($use->share()).' of '.Money::short($one->amount->toFloat(), $one->currency), 'tick', '');
            $rows[] = [
                $one->whose(), $one->days->describe(), Money::exact($one->amount, $one->currency),
                $use === null ? '' : Money::exact($use->used, $one->currency), $use === null ? '' : Quantity::percent($use->share()),
                $use === null ? '' : Quantity::percent($use->gone), $one->expected() === null ? '' : Quantity::percent($one->expected()),
                $one->standing(),
            ];
        }
        $frame->text($frame->x(1.0), count($budgets) * self::ROW + 22, 'the whole budget', 'tick');

        return $frame->figure(
            'As long as the month or quarter; ticks are its days, the upright line is now. Filled: what was spent so far, of the whole '
                .'budget; red where it is passed or will be. Hatched: what is expected to be spent until the end, by the cost of each '
                .'day so far.',
            ['whose', 'period', 'budget', 'spent', 'share', 'time over', 'expected', 'standing'],
            $rows,
        );
    }

    private static function days(Frame $frame, Budget $one, float $y): void
    {
        $starts = $one->days->starts();
        $isLong = count($starts) > 31;
        foreach ($starts as $n => $day) {
            // Of a quarter the months are enough.
            $isFirst = Days::isFirstOfMonth($day);
            if (! $isLong || $isFirst) {
                $x = $frame->x($n / count($starts));
                $frame->stroke('grid', $x, $y + self::BAR, $x, $y + self::BAR + ($isFirst ? 7 : 4));
            }
        }
        $frame->stroke('grid', $frame->left, $y + self::BAR, $frame->x(1.0), $y + self::BAR);
        $frame->box('before-bar', $frame->left, $y, $frame->x(1.0) - $frame->left, self::BAR,
            onUtc($one->days->from, MomentStyle::Month));
    }
}
