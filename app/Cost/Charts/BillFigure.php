<?php

declare(strict_types=1);

namespace App\Cost\Charts;

use App\Cost\Application\BillPage;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Svg;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Bill\Agreement;
use Fulcrion\Core\Cost\Bill\BillMatch;

/**
 * What was computed on the left, what was billed on the right, a ribbon between what belongs together: plain where both agree, hatched
 * where they differ. What has no partner stands alone, outlined.
 */
final readonly class BillFigure
{
    private const HEIGHT = 240.0;

    /** No slot is lower, so that its name can be read. */
    private const SLOT = 22.0;

    private const MOST = 14;

    private const LEFT = 330.0;

    private const RIGHT = 790.0;

    private const BAR = 16.0;

    public static function draw(BillPage $page): Figure
    {
        $matches = array_slice($page->reconciliation->matches, 0, self::MOST);
        $most = max(0.01, self::size($page->reconciliation->billed()), self::size($page->reconciliation->computed()));
        // Slots of the same order on both sides, so that ribbons do not cross.
        [$left, $right, $low] = self::places($matches, $most);
        $frame = new Frame(
            'bill',
            'Computed and billed',
            $page->sentence().'.',
            Axis::even(0.0, 1.0),
            Axis::even(0.0, 1.0),
            height: (int) ceil($low) + 12,
            left: 0,
            class: ' bill-ribbons',
        );
        $frame->hatch('bill-differs', 'differs-line', 8);
        $frame->text(self::LEFT + self::BAR, 14, "Computed: {$page->money($page->reconciliation->computed())}", 'tick strong', 'end');
        $frame->text(self::RIGHT, 14, "Billed: {$page->money($page->reconciliation->billed())}", 'tick strong', '');
        foreach ($matches as $i => $match) {
            $name = "{$page->cluster($match)}, {$page->what($match)}";
            if (isset($left[$i], $right[$i])) {
                self::ribbon($frame, $match, $left[$i], $right[$i], "{$name}: {$match->agreement->label()}");
            }
            $sides = [[$left[$i] ?? null, self::LEFT, $match->computed], [$right[$i] ?? null, self::RIGHT, $match->billed]];
            foreach ($sides as [$slot, $x, $amount]) {
                if ($slot !== null) {
                    $isAlone = ! isset($left[$i], $right[$i]);
                    $frame->box($isAlone ? 'before-bar' : 'bar s1', $x, $slot[0], self::BAR, $slot[1], "{$name}: {$page->money($amount)}");
                }
            }
            if (isset($left[$i])) {
                $text = mb_strimwidth($name, 0, 34, '…')."  {$page->money($match->computed)}";
                $frame->text(self::LEFT - 8, self::baseline($left[$i]), $text, 'tick', 'end');
            }
            if (isset($right[$i])) {
                $text = $page->money($match->billed).(isset($left[$i]) ? ($match->agreement === Agreement::Agrees ? ''
                    : "  {$match->agreement->label()}") : '  '.mb_strimwidth($name, 0, 34, '…'));
                $frame->text(self::RIGHT + self::BAR + 8, self::baseline($right[$i]), $text, 'tick', '');
            }
        }

        return $frame->figure(
            'Computed: from the price book and recorded usage. Billed: lines of the bill. Both sides add up exactly.'
                .(count($page->reconciliation->matches) > self::MOST ? ' The largest are drawn; the table has all.' : ''),
            ['cluster', 'what', 'how they agree', 'computed', 'billed'],
            array_map(static fn (BillMatch $match): array => [
                $page->cluster($match), $page->what($match), $match->agreement->label(), $page->money($match->computed),
                $page->money($match->billed),
            ], $page->reconciliation->matches),
        );
    }

    /**
     * @param  list<BillMatch>  $matches
     * @return array{array<int, array{float, float}>, array<int, array{float, float}>, float} top and height on either side, and the
     *     lowest point
     */
    private static function places(array $matches, float $most): array
    {
        $left = $right = [];
        $y = 26.0;
        foreach ($matches as $i => $match) {
            $slot = self::SLOT;
            foreach ([[&$left, $match->computed], [&$right, $match->billed]] as [&$side, $amount]) {
                if (! $amount->isZero()) {
                    $height = max(3.0, self::size($amount) / $most * self::HEIGHT);
                    $side[$i] = [$y, $height];
                    $slot = max($slot, $height + 6);
                }
            }
            unset($side);
            $y += $slot;
        }

        return [$left, $right, $y];
    }

    /**
     * @param  array{float, float}  $from
     * @param  array{float, float}  $to
     */
    private static function ribbon(Frame $frame, BillMatch $match, array $from, array $to, string $said): void
    {
        $n = Svg::number(...);
        [$x1, $x2] = [self::LEFT + self::BAR, self::RIGHT];
        $middle = ($x1 + $x2) / 2;
        [$a, $b] = [$n($from[0]), $n($from[0] + $from[1])];
        [$c, $d] = [$n($to[0]), $n($to[0] + $to[1])];
        $shape = "M{$n($x1)} {$a}C{$n($middle)} {$a} {$n($middle)} {$c} {$n($x2)} {$c}V{$d}"
            ."C{$n($middle)} {$d} {$n($middle)} {$b} {$n($x1)} {$b}Z";
        $frame->add('<g><title>'.e($said).'</title>');
        $frame->path($match->agreement === Agreement::Agrees ? 'ribbon' : 'ribbon differs', $shape);
        $frame->add('</g>');
    }

    private static function size(BigDecimal $amount): float
    {
        return abs($amount->toFloat());
    }

    /**
     * @param  array{float, float}  $slot
     */
    private static function baseline(array $slot): float
    {
        return $slot[0] + max(11.0, $slot[1] / 2 + 4);
    }
}
