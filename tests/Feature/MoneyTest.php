<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Platform\Support\Money;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * The same sums are said by the scripts of the pages, of which tests/Js/quantity.test.js is the other half.
 */
final class MoneyTest extends TestCase
{
    /**
     * @return iterable<string, array{float, string, string}>
     */
    public static function sums(): iterable
    {
        $text = (string) file_get_contents(dirname(__DIR__).'/Js/money.json');
        /** @var list<array{sum: float|int, currency: string, said: string}> $sums */
        $sums = json_decode($text, true, 8, JSON_THROW_ON_ERROR);
        foreach ($sums as $one) {
            yield "{$one['sum']} {$one['currency']}" => [(float) $one['sum'], $one['currency'], $one['said']];
        }
    }

    #[DataProvider('sums')]
    public function test_a_sum_has_the_decimals_of_its_currency(float $sum, string $currency, string $said): void
    {
        self::assertSame($said, Money::plain($sum, $currency));
    }

    public function test_where_no_price_is_known_worker_hours_are_said(): void
    {
        self::assertSame(['2.5 worker h', "1.00\u{a0}EUR"], [Money::of(2.5, null, 'EUR'), Money::of(2.5, 0.4, 'EUR')]);
    }
}
