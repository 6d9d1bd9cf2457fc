<?php

declare(strict_types=1);

namespace Tests\Core\Cost;

use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Rates;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/**
 * Time and bytes in money.
 */
final class RatesTest extends TestCase
{
    private static function rates(?string $inFlight = '2', ?string $worker = '0.5', ?string $stored = '0.024'): Rates
    {
        $of = static fn (?string $amount): ?BigDecimal => $amount === null ? null : BigDecimal::of($amount);

        return new Rates('EUR', $of($inFlight), $of($worker), null, $of($stored));
    }

    /** A month is 30.436875 days, a week seven: 4.348125 weeks. */
    #[TestWith([3.6e9, '8.70'])]
    #[TestWith([36e9, '86.96'])]
    #[TestWith([0.0, '0.00'])]
    #[TestWith([-3.6e9, '-8.70'])]
    #[TestWith([604_800e6, '1460.97'])]
    #[TestWith([1.0, '0.00'])]
    public function test_time_in_flight_a_week_is_worth_so_much_a_month(float $usPerWeek, string $month): void
    {
        self::assertSame($month, (string) self::rates()->ofInFlight($usPerWeek));
        // A quarter of the price, a quarter of the money, to the cent.
        self::assertSame(
            (string) BigDecimal::of('0.5')->multipliedBy(sprintf('%.0F', $usPerWeek))->multipliedBy('4.348125')
                ->dividedBy('3600000000', 2, \Brick\Math\RoundingMode::HALF_UP),
            (string) self::rates()->ofWorkers($usPerWeek),
        );
    }

    public function test_a_microsecond_in_flight_is_summed_up_in_one_currency_only(): void
    {
        self::assertSame(2.0, self::rates()->inFlightUs('EUR') * 3.6e9);
        self::assertSame(0.0, self::rates()->inFlightUs('SEK'));
        self::assertSame(0.0, self::rates(null)->inFlightUs('EUR'));
    }

    #[TestWith([1_073_741_824.0, '0.02'])]
    #[TestWith([1_099_511_627_776.0, '24.58'])]
    #[TestWith([0.0, '0.00'])]
    #[TestWith([9e18, '201165676.12'])]
    public function test_bytes_that_are_kept_are_worth_so_much_a_month(float $bytes, string $month): void
    {
        self::assertSame($month, (string) self::rates()->ofStored($bytes));
    }

    public function test_what_has_no_price_is_worth_nothing_that_could_be_told(): void
    {
        $rates = self::rates(null, null, null);
        self::assertNull($rates->ofInFlight(1e12));
        self::assertNull($rates->ofWorkers(1e12));
        self::assertNull($rates->ofStored(1e12));
    }

    #[TestWith(['10', 10, '30.44'])]
    #[TestWith(['10', 1, '304.37'])]
    #[TestWith(['10', 0, '304.37'])]
    #[TestWith(['-28', 28, '-30.44'])]
    public function test_an_amount_of_some_days_is_so_much_a_month(string $amount, int $days, string $month): void
    {
        self::assertSame($month, (string) Rates::monthly(BigDecimal::of($amount), $days));
    }
}
