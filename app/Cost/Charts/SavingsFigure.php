<?php

declare(strict_types=1);

namespace App\Cost\Charts;

use App\Cost\Application\Saved;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Support\Money;
use Brick\Math\BigDecimal;

/**
 * A bar a change: hollow what was promised, filled what was really saved; what it costs more stands left of the line.
 */
final readonly class SavingsFigure
{
    private const ROW = 34;

    private const MOST = 12;

    /**
     * @param  non-empty-list<Saved>  $all whose promise is known in money of one currency
     */
    public static function draw(array $all, string $sentence): Figure
    {
        usort($all, static fn (Saved $a, Saved $b): int => [self::promised($b), $a->change->id] <=> [self::promised($a), $b->change->id]);
        $shown = array_slice($all, 0, self::MOST);
        $currency = $shown[0]->currency;
        $most = max([1.0, ...array_map(static fn (Saved $one): float => max(self::promised($one), self::saved($one)), $shown)]);
        $least = min([0.0, ...array_map(static fn (Saved $one): float => min(self::promised($one), self::saved($one)), $shown)]);
        $ticks = Scale::ticks($most, 4);
        $frame = new Frame(
            'savings',
            'What changes save a month',
            "{$sentence}.",
            Axis::even($least, max($most, (float) end($ticks))),
            Axis::even(0.0, 1.0),
            height: count($shown) * self::ROW + 34,
            left: 300,
            top: 20,
            beside: 120,
            links: true,
        );
        foreach ($ticks as $tick) {
            $x = $frame->x($tick);
            $frame->stroke('grid', $x, 16, $x, 22 + count($shown) * self::ROW)->text($x, 12, Money::plain($tick, $currency), 'tick');
        }
        $rows = [];
        foreach ($shown as $i => $one) {
            $y = 24 + $i * self::ROW;
            $frame->text(292, $y + 16, mb_strimwidth($one->change->title, 0, 42, '…'), 'tick', 'end');
            self::bar($frame, 'before-bar', self::promised($one), $y, 11, "{$one->change->title}: promised {$one->promised()} a month",
                address('change.show', $one->change->id));
            if ($one->savedUs !== null) {
                self::bar($frame, 'after-bar'.($one->mark() === 'calm' ? '' : ' worse'), self::saved($one), $y + 11, 11,
                    "{$one->change->title}: really {$one->really()} a month, {$one->standing()}", address('change.show', $one->change->id));
            }
            $end = $frame->x(max(0.0, self::promised($one), self::saved($one)));
            $frame->text($end + 6, $y + 15, $one->savedUs === null ? 'not known yet' : $one->really(), 'tick strong', '');
            $rows[] = [$one->change->title, $one->promised(), $one->really(), $one->standing()];
        }

        return $frame->figure(
            'Hollow: what the proof promises for the load of the week before the change. Filled: as many executions as ran since, each at '
                .'what it took in the four weeks before, less what they took. Both in money at the mean full cost of an hour in flight.',
            ['change', 'promised a month', 'really a month', 'how it stands'],
            $rows,
        );
    }

    private static function bar(Frame $frame, string $class, float $amount, float $y, float $height, string $said, string $link): void
    {
        [$from, $to] = [$frame->x(min(0.0, $amount)), $frame->x(max(0.0, $amount))];
        $frame->box($class, $from, $y, max(1.0, $to - $from), $height - 1, $said, $link);
    }

    private static function promised(Saved $one): float
    {
        return self::number($one->promisedMoney);
    }

    private static function saved(Saved $one): float
    {
        return self::number($one->savedMoney);
    }

    private static function number(?BigDecimal $amount): float
    {
        return $amount?->toFloat() ?? 0.0;
    }
}
