<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use Fulcrion\Core\Text\Quantity;

/**
 * From one figure to another, contribution by contribution.
 */
final readonly class BridgeFigure
{
    private const WIDTH = 1180;

    private const ROW = 22;

    private const LEFT = 430;

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
        // The scale need not begin at nothing: the steps are what is looked at.
        $margin = max(($high - $low) * 0.08, 1e-12);
        $low = max(0.0, $low - $margin);
        $high += $margin;
        $x = static fn (float $value): float => self::LEFT + (($value - $low) / ($high - $low)) * (self::WIDTH - self::LEFT - 90);
        $height = (count($steps) + 2) * self::ROW + 8;
        $svg =
            '<svg class="figure-svg" viewBox="0 0 '.
            self::WIDTH.
            ' '.
            $height.
            '" role="img" aria-labelledby="'.
            $id.
            '-title"><title id="'.
            $id.
            '-title">From '.
            Quantity::digits($before).
            ' to '.
            Quantity::digits($after).
            ' in flight, by statement</title>';
        $rows = [];
        $level = $before;
        $all = [['name' => 'before', 'change' => null], ...$steps, ['name' => 'after', 'change' => null]];
        foreach ($all as $i => $step) {
            $y = 4 + $i * self::ROW;
            $label = mb_strlen($step['name']) > 62 ? mb_substr($step['name'], 0, 61).'…' : $step['name'];
            $svg .=
                '<text class="tick'.
                ($step['change'] === null ? ' strong' : '').
                '" x="'.
                (self::LEFT - 8).
                '" y="'.
                ($y + 14).
                '" text-anchor="end">'.
                Svg::escape($label).
                '</text>';
            if ($step['change'] === null) {
                $value = $i === 0 ? $before : $after;
                $said = Quantity::digits($value);
                $svg .=
                    '<line class="mark" x1="'.
                    Svg::number($x($value)).
                    '" x2="'.
                    Svg::number($x($value)).
                    '" y1="'.
                    $y.
                    '" y2="'.
                    ($y + self::ROW - 4).
                    '"/>';
                $end = $x($value);
            } else {
                $next = $level + $step['change'];
                $said = ($step['change'] > 0 ? '+' : '').Quantity::digits($step['change']);
                $svg .=
                    '<rect class="bar '.
                    ($step['change'] > 0 ? 's2' : 's1').
                    '" x="'.
                    Svg::number(min($x($level), $x($next))).
                    '" y="'.
                    $y.
                    '" width="'.
                    Svg::number(max(1.0, abs($x($next) - $x($level)))).
                    '" height="'.
                    (self::ROW - 5).
                    '"><title>'.
                    Svg::escape("{$step['name']}: {$said}").
                    '</title></rect>';
                $end = max($x($level), $x($next));
                $level = $next;
            }
            $svg .= '<text class="tick strong" x="'.Svg::number($end + 6).'" y="'.($y + 14).'">'.$said.'</text>';
            $rows[] = [$step['name'], $said];
        }

        return new Figure(
            $svg.'</svg>',
            '',
            'Mean executions in flight, from the first window to the second; each bar is what one statement added or took away. The '
                .'axis does not begin at nothing.',
            ['part', 'change'],
            $rows,
        );
    }
}
