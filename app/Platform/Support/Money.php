<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Fulcrion\Core\Text\Quantity;
use NumberFormatter;

/**
 * What worker time costs; worker hours where no price is known.
 */
final class Money
{
    public static function of(float $workerHours, ?float $price, string $currency): string
    {
        return $price === null ? Quantity::digits(round($workerHours, 4)).' worker h' : self::plain($workerHours * $price, $currency);
    }

    /** To its last decimal, of an amount that is exact. */
    public static function exact(BigDecimal $amount, string $currency): string
    {
        $digits = self::digits($currency);
        $text = (string) $amount->abs()->toScale($digits, RoundingMode::HALF_UP);
        [$whole, $part] = [...explode('.', $text, 2), ''];
        $grouped = implode(Quantity::THIN_SPACE, array_map(strrev(...), array_reverse(str_split(strrev($whole), 3))));

        return ($amount->isNegative() && ! $amount->toScale($digits, RoundingMode::HALF_UP)->isZero() ? Quantity::MINUS : '').
            $grouped.($part === '' ? '' : ".{$part}").($currency === '' ? '' : "\u{a0}{$currency}");
    }

    public static function plain(float $sum, string $currency): string
    {
        $digits = abs($sum) >= 1000 ? 0 : self::digits($currency);
        $formatter = new NumberFormatter('en', NumberFormatter::DECIMAL);
        $formatter->setSymbol(NumberFormatter::GROUPING_SEPARATOR_SYMBOL, Quantity::THIN_SPACE);
        $formatter->setSymbol(NumberFormatter::MINUS_SIGN_SYMBOL, Quantity::MINUS);
        $formatter->setAttribute(NumberFormatter::ROUNDING_MODE, NumberFormatter::ROUND_HALFUP);
        $formatter->setAttribute(NumberFormatter::FRACTION_DIGITS, $digits);

        return $formatter->format(abs($sum) < 0.5 * 10 ** -$digits ? 0 : $sum).($currency === '' ? '' : "\u{a0}{$currency}");
    }

    /** To three digits, for figures. */
    public static function short(float $sum, string $currency): string
    {
        $decimals = $sum === 0.0 ? 0 : max(0, min(self::digits($currency), 2 - (int) floor(log10(abs($sum)))));
        $text = number_format(abs(round($sum, 2 - (int) floor(log10(max(1e-9, abs($sum)))))), $decimals, '.', Quantity::THIN_SPACE);

        return ($sum < 0 ? Quantity::MINUS : '').$text.($currency === '' ? '' : "\u{a0}{$currency}");
    }

    /** How many decimals a currency has: two where it is none we know. */
    private static function digits(string $currency): int
    {
        if (preg_match('~^[A-Z]{3}$~D', $currency) !== 1) {
            return 2;
        }
        $formatter = new NumberFormatter('en', NumberFormatter::CURRENCY);
        $formatter->setTextAttribute(NumberFormatter::CURRENCY_CODE, $currency);

        return (int) $formatter->getAttribute(NumberFormatter::FRACTION_DIGITS);
    }
}
