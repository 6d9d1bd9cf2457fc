<?php

declare(strict_types=1);

namespace App\Limits\Charts;

use App\Limits\Application\LimitRow;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\Threshold;
use Fulcrion\Core\Text\Quantity;

/**
 * A line a limit in force: filled what is used of it in the present period, upright rails where something is done.
 */
final readonly class LimitsFigure
{
    private const ROW = 34;

    private const BAR = 14;

    /** What is used beyond a limit is drawn up to this part of it. */
    private const MOST = 1.25;

    private const NAME = 40;

    /**
     * @param  list<LimitRow>  $rows that count something
     */
    public static function draw(array $rows, string $sentence): ?Figure
    {
        $rows = array_values(array_filter($rows, static fn (LimitRow $one): bool => $one->used !== null));
        if ($rows === []) {
            return null;
        }
        $frame = new Frame(
            'limits',
            'Limits in force',
            "{$sentence}.",
            Axis::even(0.0, self::MOST),
            Axis::even(0.0, 1.0),
            height: count($rows) * self::ROW + 10,
            left: 250,
            top: 8,
            beside: 190,
            links: true,
        );
        $table = [];
        foreach ($rows as $i => $one) {
            $y = 10 + $i * self::ROW;
            $share = $one->share() ?? 0.0;
            $limit = $one->limit;
            $frame->text($frame->left - 10, $y + 12, mb_strimwidth($limit->whose(), 0, self::NAME, '…'), 'tick strong', 'end');
            $frame->box('before-bar', $frame->left, $y, $frame->x(1.0) - $frame->left, self::BAR);
            $frame->box('after-bar'.($one->isHolding ? ' worse' : ''), $frame->left, $y,
                max(1.0, $frame->x(min(self::MOST, $share)) - $frame->left), self::BAR,
                "{$limit->title()}: ".Quantity::percent($share).' used', address('limit.show', $limit->id));
            foreach ($limit->limit->thresholds as $threshold) {
                $x = $frame->x(min(self::MOST, $threshold->percent / 100));
                $frame->stroke($threshold->act === Act::Hold ? 'limit' : 'rail', $x, $y - 4, $x, $y + self::BAR + 4);
            }
            $frame->text($frame->right + 8, $y + 12, Quantity::percent($share)." of {$limit->amount($limit->limit->amount)}, a "
                .$limit->limit->period->value, 'tick', '');
            $table[] = [
                $limit->title(), $limit->amount((int) $one->used), Quantity::percent($share),
                implode(', ', array_map(static fn (Threshold $some): string => "{$some->percent}% {$some->act->value}",
                    $limit->limit->thresholds)),
                (string) $one->held, $one->standing(),
            ];
        }

        return $frame->figure(
            'Filled: used in the present day, week or month, counted as statements end; red while new ones are held. Dashed: the shares '
                .'at which something is done.',
            ['limit', 'used', 'share', 'acts', 'held', 'standing'],
            $table,
        );
    }
}
