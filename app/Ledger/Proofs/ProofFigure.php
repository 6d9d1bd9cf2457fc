<?php

declare(strict_types=1);

namespace App\Ledger\Proofs;

use App\Platform\Figures\Figure;
use App\Platform\Figures\Svg;
use Fulcrion\Core\Proofs\Proof;
use Fulcrion\Core\Text\Quantity;

/**
 * Each statement as a pair of bars on one log scale: before above after, joined by what was won or lost.
 */
final readonly class ProofFigure
{
    private const WIDTH = 1180.0;

    private const LEFT = 96.0;

    public static function of(Proof $proof): Figure
    {
        $lines = array_slice($proof->lines, 0, 40);
        $times = [];
        foreach ($lines as $line) {
            if (! $line->failed()) {
                array_push($times, max(1, $line->before->us()), max(1, $line->after->us()));
            }
        }
        $low = $times === [] ? 1.0 : 10 ** floor(log10(min($times)));
        $high = $times === [] ? 10.0 : 10 ** ceil(log10(max($times)));
        $high = max($high, $low * 10);
        $x = static fn (float $us): float => self::LEFT +
            ((self::WIDTH - self::LEFT - 190) * (log(max(1, $us)) - log($low))) / (log($high) - log($low));
        $height = 26 + 38 * count($lines);
        $svg =
            '<svg class="figure-svg proof-svg" viewBox="0 0 1180 '.
            $height.
            '" role="img" aria-labelledby="proof-title"><title id="proof-title">'.
            Svg::escape($proof->sentence()).
            '</title>';
        for ($tick = $low; $tick <= $high * 1.001; $tick *= 10) {
            $svg .=
                '<line class="grid" x1="'.
                Svg::number($x($tick)).
                '" x2="'.
                Svg::number($x($tick)).
                '" y1="16" y2="'.
                $height.
                '"/><text class="tick" text-anchor="middle" x="'.
                Svg::number($x($tick)).
                '" y="11">'.
                Svg::escape(Quantity::duration($tick)).
                '</text>';
        }
        $rows = [];
        foreach ($lines as $i => $line) {
            $y = 24 + 38 * $i;
            $svg .= '<text class="tick strong" x="0" y="'.($y + 18).'">'.substr($line->statement, 0, 8).'</text>';
            if ($line->failed()) {
                $svg .= '<text class="tick" x="'.self::LEFT.'" y="'.($y + 18).'">failed</text>';
                $rows[] = [substr($line->statement, 0, 8), 'failed', 'failed', ''];

                continue;
            }
            [$before, $after] = [$x($line->before->us()), $x($line->after->us())];
            $worse = $line->isWorse();
            $svg .=
                '<rect class="before-bar" x="'.
                self::LEFT.
                '" y="'.
                $y.
                '" width="'.
                Svg::number(max(1, $before - self::LEFT)).
                '" height="11"><title>before: '.
                Svg::escape(Quantity::duration($line->before->us())).
                '</title></rect>'.
                '<rect class="after-bar'.
                ($worse ? ' worse' : '').
                '" x="'.
                self::LEFT.
                '" y="'.
                ($y + 13).
                '" width="'.
                Svg::number(max(1, $after - self::LEFT)).
                '" height="11"><title>after: '.
                Svg::escape(Quantity::duration($line->after->us())).
                '</title></rect>'.
                '<text class="tick" x="'.
                Svg::number($before + 6).
                '" y="'.
                ($y + 9.5).
                '">'.
                Svg::escape(Quantity::duration($line->before->us())).
                '</text>'.
                '<text class="tick strong" x="'.
                Svg::number($after + 6).
                '" y="'.
                ($y + 22.5).
                '">'.
                Svg::escape(Quantity::duration($line->after->us()).', '.self::words($line->factor())).
                '</text>';
            $rows[] = [
                substr($line->statement, 0, 8),
                Quantity::duration($line->before->us()),
                Quantity::duration($line->after->us()),
                self::words($line->factor()),
            ];
        }

        return new Figure(
            $svg.'</svg>',
            $proof->sentence(),
            'Time of each statement before (outlined) and after (filled), on a log scale; what got worse comes first.',
            ['statement', 'before', 'after', 'change'],
            $rows,
        );
    }

    public static function words(float $factor): string
    {
        return match (true) {
            $factor >= 1.03 => Quantity::digits($factor).' times as fast',
            $factor < 0.97 => Quantity::digits(1 / $factor).' times as slow',
            default => 'the same',
        };
    }
}
