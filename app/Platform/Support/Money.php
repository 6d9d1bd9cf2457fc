<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Fulcrion\Core\Text\Quantity;

/**
 * What worker time costs; worker hours where no price is known.
 */
final class Money
{
    public static function of(float $workerHours, ?float $price, string $currency): string
    {
        return $price === null ? Quantity::digits(round($workerHours, 4)).' worker h' : self::plain($workerHours * $price, $currency);
    }

    public static function plain(float $sum, string $currency): string
    {
        return ($sum < 0 ? "\u{2212}" : '').
            number_format(abs($sum), abs($sum) >= 1000 ? 0 : 2, '.', Quantity::THIN_SPACE).
            ($currency === '' ? '' : "\u{a0}{$currency}");
    }
}
