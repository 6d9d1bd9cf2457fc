<?php

declare(strict_types=1);

namespace App\Health\Charts;

use App\Health\Application\LiveView;
use App\Platform\Figures\Svg;
use Fulcrion\Core\Text\Quantity;

/**
 * Where the processors' time goes, as one bar, with the readings before it as a line.
 */
final readonly class LiveBar
{
    private const WIDTH = 600;

    private const HEIGHT = 26;

    private const LINE = 40;

    public static function draw(LiveView $view): string
    {
        $svg = '';
        $x = 0.0;
        $said = [];
        $place = 0;
        foreach ($view->processor() as $name => $part) {
            $place++;
            $width = $part * self::WIDTH;
            $text = "{$name} ".Quantity::percent($part);
            $said[] = $text;
            $svg .= '<rect class="'.($name === 'idle' ? 'idle' : "s{$place}").'" x="'.Svg::number($x).'" width="'.Svg::number($width)
                .'" height="'.self::HEIGHT.'"><title>'.Svg::escape($text).'</title></rect>';
            $x += $width;
        }
        $height = self::HEIGHT;
        if (count($view->before) > 1) {
            $points = [];
            foreach ([...$view->before, $view->busy() ?? 0.0] as $at => $busy) {
                $points[] = [$at / count($view->before) * self::WIDTH, self::HEIGHT + 8 + (1 - $busy) * self::LINE];
            }
            $svg .= '<path class="line" d="'.Svg::path($points).'"/>';
            $height += self::LINE + 12;
        }

        return '<svg class="figure-svg live-bar" viewBox="0 0 '.self::WIDTH." {$height}\" role=\"img\" aria-label=\"".
            Svg::escape(implode(', ', $said))."\">{$svg}</svg>";
    }
}
