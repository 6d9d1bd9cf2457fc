<?php

declare(strict_types=1);

namespace App\Platform\Figures;

/**
 * Small help for writing SVG by hand.
 */
final class Svg
{
    public static function number(float $value): string
    {
        return rtrim(rtrim(number_format($value, 2, '.', ''), '0'), '.');
    }

    public static function escape(string $text): string
    {
        return htmlspecialchars($text, ENT_QUOTES | ENT_SUBSTITUTE | ENT_XML1, 'UTF-8');
    }

    /**
     * @param  list<array{float, float}>  $points
     */
    public static function path(array $points): string
    {
        $path = '';
        foreach ($points as $i => [$x, $y]) {
            $path .= ($i === 0 ? 'M' : 'L').self::number($x).' '.self::number($y);
        }

        return $path;
    }
}
