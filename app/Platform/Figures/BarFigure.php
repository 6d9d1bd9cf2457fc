<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use Fulcrion\Core\Text\Quantity;

/**
 * How often durations of each size occurred.
 */
final readonly class BarFigure
{
    private const WIDTH = 560;

    private const HEIGHT = 170;

    /**
     * @param  list<array{fromUs: int, toUs: int, count: int}>  $classes
     * @param  array<string, int|null>  $marks name => microseconds
     */
    public static function durations(string $id, array $classes, array $marks, int $samples): Figure
    {
        $most = max([1, ...array_column($classes, 'count')]);
        $width = (self::WIDTH - 10) / max(1, count($classes));
        $svg =
            '<svg class="figure-svg" viewBox="0 0 '.
            self::WIDTH.
            ' '.
            self::HEIGHT.
            '" role="img" aria-labelledby="'.
            $id.
            '-title"><title id="'.
            $id.
            '-title">How long runs took</title>';
        $rows = [];
        foreach ($classes as $i => $class) {
            $height = ($class['count'] / $most) * (self::HEIGHT - 70);
            $label = Quantity::duration($class['fromUs']).' to '.Quantity::duration($class['toUs']);
            $rows[] = [$label, Quantity::count($class['count'])];
            $svg .=
                '<rect class="bar s1" x="'.
                Svg::number(5 + $i * $width).
                '" y="'.
                Svg::number(self::HEIGHT - 24 - $height).
                '" width="'.
                Svg::number(max(1, $width - 2)).
                '" height="'.
                Svg::number(max($class['count'] > 0 ? 1 : 0, $height)).
                '"><title>'.
                Svg::escape("{$label}: ".Quantity::count($class['count']).' executions').
                '</title></rect>';
            if (count($classes) <= 10 || $i % (int) ceil(count($classes) / 8) === 0) {
                $svg .=
                    '<text class="tick" x="'.
                    Svg::number(5 + $i * $width).
                    '" y="'.
                    (self::HEIGHT - 8).
                    '">'.
                    Svg::escape(Quantity::duration($class['fromUs'])).
                    '</text>';
            }
        }
        if ($classes !== []) {
            $low = log(max(1, $classes[0]['fromUs']));
            $high = log($classes[count($classes) - 1]['toUs']);
            $level = 0;
            foreach ($marks as $name => $us) {
                if ($us !== null && $us > 0 && $high > $low) {
                    $x = 5 + ((log($us) - $low) / ($high - $low)) * (self::WIDTH - 10);
                    $anchor = $x > self::WIDTH - 40 ? 'end' : 'start';
                    $svg .=
                        '<line class="mark" x1="'.
                        Svg::number($x).
                        '" x2="'.
                        Svg::number($x).
                        '" y1="'.
                        (4 + $level * 13).
                        '" y2="'.
                        (self::HEIGHT - 24).
                        '"/><text class="tick strong" text-anchor="'.
                        $anchor.
                        '" x="'.
                        Svg::number($x + ($anchor === 'end' ? -3 : 3)).
                        '" y="'.
                        (12 + $level * 13).
                        '">'.
                        Svg::escape($name).
                        '</text>';
                    $level = ($level + 1) % 3;
                }
            }
        }

        return new Figure(
            $svg.'</svg>',
            '',
            'Executions by duration; each class is twice as long as the one before. From '.
                Quantity::count($samples).
                ' single durations, quantiles exact to 1%.',
            ['duration', 'executions'],
            $rows,
        );
    }
}
