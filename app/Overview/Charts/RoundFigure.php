<?php

declare(strict_types=1);

namespace App\Overview\Charts;

use App\Overview\Application\Gain;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Support\MomentStyle;
use App\Platform\Support\Money;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Str;

/**
 * A bar an object, all on one axis: filled what is proven, hatched what is rehearsed, hollow what could be gained. A promise that was
 * broken stands before its bar as a flag with the day it broke.
 */
final readonly class RoundFigure
{
    private const ROW = 28;

    private const BAR = 15;

    private const HEAD = 22;

    /** Letters of a name that have room. */
    private const NAME = 38;

    /**
     * @param  non-empty-list<Gain>  $gains
     * @param  string  $currency empty for hours in flight
     * @param  int  $left objects that have no place on the axis
     */
    public static function draw(array $gains, string $currency, string $sentence, int $left): Figure
    {
        $said = static fn (float $amount): string => $currency === '' ? Quantity::duration($amount * 3.6e9)
            : Money::short($amount, $currency);
        $most = max(array_map(static fn (Gain $one): float => $one->all(), $gains));
        $ticks = Scale::ticks(max($most, 0.01), 5);
        $frame = new Frame(
            'round-gains',
            'What could be gained, and what was',
            "{$sentence}.",
            Axis::even(0.0, max($most, (float) end($ticks), 0.01)),
            Axis::even(0.0, 1.0),
            height: count($gains) * self::ROW + self::HEAD + 8,
            left: 340,
            top: self::HEAD,
            beside: 120,
            links: true,
        );
        $frame->hatch('round-rehearsed', 'rehearsed-line');
        foreach ($ticks as $tick) {
            $x = $frame->x($tick);
            $frame->stroke('grid', $x, 16, $x, self::HEAD + count($gains) * self::ROW)
                ->text($x, 12, $tick === 0.0 ? '0' : $said($tick), 'tick');
        }
        $rows = [];
        foreach ($gains as $i => $one) {
            $y = self::HEAD + $i * self::ROW + 5;
            $isBroken = $one->brokenUs !== null;
            $frame->text($frame->left - ($isBroken ? 92 : 10), $y + 12, mb_strimwidth($one->name, 0, $isBroken ? 28 : self::NAME, '…'),
                'tick strong', 'end');
            if ($isBroken) {
                self::flag($frame, $one, $y);
            }
            $at = 0.0;
            foreach (self::parts($one) as $part => [$amount, $class, $word]) {
                if ($amount > 0) {
                    $from = $frame->x($at);
                    $frame->box($class, $from, $y, max(1.5, $frame->x($at + $amount) - $from - 1), self::BAR,
                        "{$one->name}: {$said($amount)} a month {$word}", $one->links[$part] === '' ? null : $one->links[$part]);
                    $at += $amount;
                }
            }
            $frame->text($frame->x($at) + 6, $y + 12, $said($one->all()), 'tick', '');
            $rows[] = [
                $one->name, $said($one->possible), $said($one->rehearsed), $said($one->proven), self::broken($one),
            ];
        }
        $unit = $currency === '' ? 'hours of statements in flight a month'
            : "money a month, {$currency}, at the mean full cost of an hour in flight or of a worker";

        return $frame->figure(
            'Hollow: what findings cost that wait. Hatched: what changes save that were rehearsed. Filled: what proofs of the last four '
                ."weeks promise. All in {$unit}; modelled from the load of a week. A flag: the proof did not hold, or the finding is "
                .'there again.'.($left === 0 ? '' : ' Not drawn: '.Quantity::count($left).' '.Str::plural('object', $left).
                    ($currency === '' ? ' whose findings are not told in time of statements.' : ' without a price.')),
            ['object', 'could be gained', 'rehearsed', 'proven', 'promise broken'],
            $rows,
        );
    }

    /**
     * @return array<'proven'|'rehearsed'|'possible', array{float, string, string}> amount, class and word of each, in order
     */
    private static function parts(Gain $one): array
    {
        return [
            'proven' => [$one->proven, 'after-bar', 'proven'],
            'rehearsed' => [$one->rehearsed, 'rehearsed-bar', 'rehearsed'],
            'possible' => [$one->possible, 'before-bar', 'could be gained'],
        ];
    }

    private static function flag(Frame $frame, Gain $one, float $y): void
    {
        $x = $frame->left - 82;
        $frame->add('<a href="'.htmlspecialchars($one->links['broken'], ENT_QUOTES).'">');
        $frame->stroke('broken-pole', $x, $y - 1, $x, $y + self::BAR + 2)
            ->path('broken-flag', sprintf('M%.1f %.1fl11 4.5l-11 4.5z', $x, $y - 1))
            ->text($x + 14, $y + 12, self::broken($one), 'tick broken', '');
        $frame->add('</a>');
    }

    private static function broken(Gain $one): string
    {
        return $one->brokenUs === null ? '' : moment($one->brokenUs, MomentStyle::ShortDay);
    }
}
