<?php

declare(strict_types=1);

namespace Tests\Practice;

use DateTimeImmutable;
use Fulcrion\Practice\Expression\Scalar;
use Fulcrion\Practice\WarehouseError;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Arithmetic of dates and decimals, beside what PHP's own calendar and hand calculation say.
 */
final class ScalarTest extends TestCase
{
    public function test_the_calendar_agrees_with_phps(): void
    {
        $random = new Randomizer(new Mt19937(11));
        for ($i = 0; $i < 3000; $i++) {
            $day = $random->getInt(-200_000, 200_000);
            $date = new DateTimeImmutable('@'.$day * 86400);
            self::assertSame(array_map(intval(...), explode(' ', $date->format('Y n j'))), Scalar::civil($day));
            self::assertSame($day, Scalar::day(...Scalar::civil($day)));
            foreach (['week' => 'W', 'dow' => 'w', 'isodow' => 'N', 'month' => 'n'] as $unit => $format) {
                self::assertSame((int) $date->format($format), Scalar::extractDay($day, $unit), "{$unit} of {$date->format('Y-m-d')}");
            }
            self::assertSame((int) $date->format('z') + 1, Scalar::extractDay($day, 'doy'));
            foreach (
                ['week' => 'monday this week', 'month' => 'first day of this month', 'year' => 'first day of january this '
                    .'year'] as $unit => $words
            ) {
                self::assertSame(
                    intdiv(
                        $date->modify($words)->setTime(0, 0)->getTimestamp() - ($date->modify($words)->getTimestamp() < 0 ? 86399 : 0),
                        86400,
                    ),
                    Scalar::truncateDay($day, $unit),
                    "{$unit} of {$date->format('Y-m-d')}",
                );
            }
            $us = $day * 86_400_000_000 + $random->getInt(0, 86_399_999_999);
            self::assertSame(
                [(int) gmdate('G', (int) floor($us / 1e6)), (int) gmdate('i', (int) floor($us / 1e6))],
                [Scalar::extract($us, 'hour'), Scalar::extract($us, 'minute')],
            );
            $hour = Scalar::truncateTime($us, 'hour');
            self::assertTrue($hour <= $us && $us - $hour < 3_600_000_000 && $hour % 3_600_000_000 === 0);
        }
    }

    #[TestWith(['2026-01-31', 1, 'month', '2026-02-28'])]
    #[TestWith(['2024-01-31', 1, 'month', '2024-02-29'])]
    #[TestWith(['2024-02-29', 1, 'year', '2025-02-28'])]
    #[TestWith(['2026-03-31', -1, 'month', '2026-02-28'])]
    #[TestWith(['2026-01-15', -13, 'month', '2024-12-15'])]
    #[TestWith(['2026-11-30', 1, 'quarter', '2027-02-28'])]
    #[TestWith(['2026-12-31', 2, 'week', '2027-01-14'])]
    #[TestWith(['1970-01-01', -1, 'day', '1969-12-31'])]
    public function test_intervals_end_on_days_that_exist(string $from, int $amount, string $unit, string $to): void
    {
        self::assertSame($to, gmdate('Y-m-d', Scalar::plusUnits(Scalar::parseDate($from), $amount, $unit) * 86400));
        $time = 5 * 3_600_000_000 + 7;
        self::assertSame(
            Scalar::parseDate($to) * 86_400_000_000 + $time,
            Scalar::plusTime(Scalar::parseDate($from) * 86_400_000_000 + $time, $amount, $unit),
        );
    }

    #[TestWith([7, 2, 0, 4])]
    #[TestWith([-7, 2, 0, -4])]
    #[TestWith([1, 3, 4, 3333])]
    #[TestWith([2, 3, 4, 6667])]
    #[TestWith([-2, 3, 4, -6667])]
    #[TestWith([5, -2, 1, -25])]
    #[TestWith([900_000_000_000_000_000, 7, 0, 128_571_428_571_428_571])]
    #[TestWith([5, 0, 4, null])]
    public function test_division_rounds_half_away_from_zero(int $a, int $b, int $up, ?int $expected): void
    {
        self::assertSame($expected, Scalar::divide($a, $b, $up));
    }

    public function test_rounding_and_parsing_of_decimals(): void
    {
        self::assertSame(
            [123, 124, -123, -124, 0],
            [Scalar::drop(12_349, 2), Scalar::drop(12_350, 2), Scalar::drop(-12_349, 2), Scalar::drop(-12_350, 2), Scalar::drop(49, 2)],
        );
        self::assertSame([12_300, 12_000], [Scalar::roundScaled(12_345, 3, 1), Scalar::roundScaled(12_345, 3, 0)]);
        self::assertSame(
            [150, -5, 1, 0, 12_346, 100_000],
            array_map(static fn (string $text): int => Scalar::parseDecimal($text, 2), [
                '1.5',
                '-.05',
                '0.009',
                '0.004',
                ' 123.456 ',
                '1e3',
            ]),
        );
        foreach (['', '.', 'x', '1,5'] as $bad) {
            try {
                Scalar::parseDecimal($bad, 2);
                self::fail("\"{$bad}\" was taken for a number");
            } catch (WarehouseError $error) {
                self::assertStringContainsString('is no number', $error->getMessage());
            }
        }
        $this->expectExceptionMessage('more than 18 digits');
        Scalar::parseDecimal('12345678901234567.89', 4);
    }

    #[TestWith(['2026-02-29'])]
    #[TestWith(['2026-1'])]
    #[TestWith(['yesterday'])]
    #[TestWith(['2026-01-01 10:00:00'])]
    public function test_what_is_no_date_is_refused(string $text): void
    {
        $this->expectException(WarehouseError::class);
        Scalar::parseDate($text);
    }

    public function test_patterns_of_like(): void
    {
        foreach (
            [
                ['a%', 'abc', true],
                ['a_c', 'abc', true],
                ['a_c', 'ac', false],
                ['%', '', true],
                ['a.c', 'abc', false],
                ['50\%', '50%', true],
                ['50\%', '505', false],
                ['_', 'é', true],
                ["a%\nb", "axx\nb", true],
            ] as [$like, $text, $matches]
        ) {
            self::assertSame($matches, preg_match(Scalar::pattern($like, '\\'), $text) === 1, "{$text} like {$like}");
        }
        self::assertSame(
            ['é', 'bc', '', 'c'],
            [
                Scalar::substring('éa', 1, 1),
                Scalar::substring('abc', 2, null),
                Scalar::substring('abc', 0, 2),
                Scalar::substring('abc', -1, null),
            ],
        );
        self::assertSame(
            ['007', 'ab', '7..', null],
            [
                Scalar::pad('7', 3, '0', true),
                Scalar::pad('abc', 2, '0', true),
                Scalar::pad('7', 3, '.', false),
                Scalar::pad('7', 3, '', true),
            ],
        );
    }
}
