<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use Fulcrion\Core\Text\Quantity;

/**
 * From one figure to another, contribution by contribution.
 */
final readonly class BridgeFigure
{
    private const ROW = 22;

    /**
     * @param  list<array{name: string, change: float}>  $steps their changes add up to the whole
     */
    public static function draw(string $id, float $before, float $after, array $steps): Figure
    {
        $levels = [$before];
        foreach ($steps as $step) {
            $levels[] = end($levels) + $step['change'];
        }
        $low = min($levels);
        $high = max($levels);
        // The scale need not begin at 0: the steps are what is looked at.
        $margin = max(($high - $low) * 0.08, 1e-12);
        $low = max(0.0, $low - $margin);
        $high += $margin;
        $frame = new Frame(
            $id,
            'From '.Quantity::digits($before).' to '.Quantity::digits($after).' in flight, by statement',
            'From '.Quantity::digits($before).' to '.Quantity::digits($after).', in '.count($steps).' parts.',
            Axis::even($low, $high),
            Axis::even(0.0, 1.0),
            height: (count($steps) + 2) * self::ROW + 8,
            left: 430,
            beside: 90,
        );
        $rows = [];
        $level = $before;
        $all = [['name' => 'before', 'change' => null], ...$steps, ['name' => 'after', 'change' => null]];
        foreach ($all as $i => $step) {
            $y = 4 + $i * self::ROW;
            $label = mb_strlen($step['name']) > 62 ? mb_substr($step['name'], 0, 61).'…' : $step['name'];
            $frame->text($frame->left - 8, $y + 14, $label, 'tick'.($step['change'] === null ? ' strong' : ''), 'end');
            if ($step['change'] === null) {
                $value = $i === 0 ? $before : $after;
                $said = Quantity::digits($value);
                $end = $frame->x($value);
                $frame->stroke('mark', $end, $y, $end, $y + self::ROW - 4);
            } else {
                $next = $level + $step['change'];
                $said = ($step['change'] > 0 ? '+' : '').Quantity::digits($step['change']);
                [$from, $to] = [$frame->x($level), $frame->x($next)];
                $end = max($from, $to);
                $frame->box(
                    'bar '.($step['change'] > 0 ? 's2' : 's1'),
                    min($from, $to),
                    $y,
                    max(1.0, abs($to - $from)),
                    self::ROW - 5,
                    "{$step['name']}: {$said}",
                );
                $level = $next;
            }
            $frame->text($end + 6, $y + 14, $said, 'tick strong', '');
            $rows[] = [$step['name'], $said];
        }

        return $frame->figure(
            'Mean executions in flight, from the first window to the second; each bar is what one statement added or took away. The '
                .'axis does not begin at 0.',
            ['part', 'change'],
            $rows,
        );
    }
}
