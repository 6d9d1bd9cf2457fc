<?php

declare(strict_types=1);

namespace Tests\Core\Cost;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Fulcrion\Core\Cost\Allocation;
use Fulcrion\Core\Cost\CostLine;
use Fulcrion\Core\Cost\IdleRule;
use Fulcrion\Core\Cost\Price;
use Fulcrion\Core\Cost\PriceBook;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Cost\Reserve;
use Fulcrion\Core\Cost\Shares;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class CostTest extends TestCase
{
    private const HOUR = 3_600;

    /**
     * @param  array<array-key, BigDecimal>  $parts
     * @return array<array-key, string>
     */
    private static function texts(array $parts): array
    {
        return array_map(static fn (BigDecimal $one): string => (string) $one, $parts);
    }

    private static function price(
        PriceKind $kind,
        string $amount,
        int $from = 0,
        string $quantity = '1',
        string $above = '0',
        string $name = '',
    ): Price {
        return new Price($kind, $name, BigDecimal::of($amount), $from, BigDecimal::of($quantity), BigDecimal::of($above));
    }

    /** @return callable(int): array{int, int} months of thirty days, so that one can work by hand */
    private static function months(): callable
    {
        $month = 30 * 24 * self::HOUR;

        return static fn (int $at): array => [$at - $at % $month, $at - $at % $month + $month];
    }

    /**
     * @param  list<CostLine>  $lines
     */
    private static function sum(array $lines): string
    {
        return (string) BigDecimal::sum(BigDecimal::zero(), ...array_map(static fn (CostLine $one): BigDecimal => $one->amount, $lines))
            ->stripTrailingZeros();
    }

    public function test_parts_worked_by_hand(): void
    {
        $split = static fn (string $amount, array $weights): array => self::texts(Shares::split(BigDecimal::of($amount), $weights));
        self::assertSame(['a' => '33.34', 'b' => '33.33', 'c' => '33.33'], $split('100', ['a' => 1, 'b' => 1, 'c' => 1]));
        // 0.05 by 3:2:1 is 0.025, 0.0167 and 0.0083: the last two have the largest remainders of 0.5, 0.67 and 0.83.
        self::assertSame(['a' => '0.02', 'b' => '0.02', 'c' => '0.01'], $split('0.05', ['a' => 3, 'b' => 2, 'c' => 1]));
        self::assertSame(['a' => '0.00', 'b' => '10.00'], $split('10', ['a' => 0, 'b' => 7]));
        self::assertSame(['a' => '-33.34', 'b' => '-33.33', 'c' => '-33.33'], $split('-100', ['a' => 1, 'b' => 1, 'c' => 1]), 'a credit');
        self::assertSame(['a' => '0.01'], $split('0.005', ['a' => 1]), 'rounded first');
        self::assertSame([], $split('10', ['a' => 0]));
        self::assertSame([], $split('10', []));
    }

    public function test_parts_always_add_up_and_none_is_a_unit_off(): void
    {
        $random = new Randomizer(new Mt19937(12));
        for ($round = 0; $round < 500; $round++) {
            $weights = [];
            for ($i = $random->getInt(1, 40); $i > 0; $i--) {
                $weights["k{$i}"] = $random->getInt(0, 3) === 0 ? 0 : $random->getInt(0, 10 ** $random->getInt(1, 15));
            }
            $amount = BigDecimal::ofUnscaledValue($random->getInt(-10 ** 9, 10 ** 9), 2);
            $parts = Shares::split($amount, $weights);
            if (array_sum($weights) === 0) {
                self::assertSame([], $parts);

                continue;
            }
            self::assertTrue(BigDecimal::sum(...array_values($parts))->isEqualTo($amount));
            self::assertSame(array_keys($weights), array_keys($parts));
            foreach ($parts as $key => $part) {
                $exact = (float) (string) $amount * $weights[$key] / array_sum($weights);
                self::assertEqualsWithDelta($exact, (float) (string) $part, 0.01 + 1e-6);
                self::assertTrue($weights[$key] > 0 || $part->isZero(), 'who used nothing pays nothing');
            }
        }
    }

    public function test_nodes_cost_by_the_second_and_a_price_may_change_within_an_hour(): void
    {
        $book = new PriceBook('EUR', [
            self::price(PriceKind::NodeHour, '1.20', 0, '12'),
            self::price(PriceKind::NodeHour, '1.50', 10 * self::HOUR + 1_800, '12'),
            self::price(PriceKind::NodeHour, '0.40', 20 * self::HOUR, '2', name: 'small'),
        ]);
        $lines = $book->standing(0, 24 * self::HOUR, self::months());
        self::assertSame(
            [['', '126', 0], ['', '114', 37_800], ['', '48', 72_000], ['small', '8', 72_000]],
            array_map(static fn (CostLine $one): array => [$one->name, (string) $one->quantity->stripTrailingZeros(), $one->from], $lines),
        );
        // 10.5 h at 14.40, 13.5 h at 18.00, and 4 h of two small ones.
        self::assertSame((string) BigDecimal::of('151.2')->plus('243')->plus('3.2'), self::sum($lines));
        self::assertSame('18', self::sum($book->standing(12 * self::HOUR, 13 * self::HOUR, self::months())));
        // However a time is cut, it costs the same.
        $random = new Randomizer(new Mt19937(3));
        for ($round = 0; $round < 60; $round++) {
            $cut = $random->getInt(1, 24 * self::HOUR - 1);
            $parts = [...$book->standing(0, $cut, self::months()), ...$book->standing($cut, 24 * self::HOUR, self::months())];
            self::assertEqualsWithDelta(397.4, (float) self::sum($parts), 1e-8);
        }
    }

    public function test_fees_are_of_the_part_of_a_month_and_discounts_are_on_what_they_follow(): void
    {
        $day = 24 * self::HOUR;
        $book = new PriceBook('EUR', [
            self::price(PriceKind::MonthlyFee, '300'),
            self::price(PriceKind::NodeHour, '1', 0, '10'),
            self::price(PriceKind::Discount, '10', 15 * $day),
        ]);
        // A day of a month of thirty, and ten nodes.
        self::assertSame('250', self::sum($book->standing(0, $day, self::months())));
        self::assertSame('225', self::sum($book->standing(15 * $day, 16 * $day, self::months())));
        // Over the end of a month: half of each.
        self::assertSame((string) (30 * 250 - 25 * 30), self::sum($book->standing(15 * $day, 45 * $day, self::months())));
        self::assertSame([], (new PriceBook('EUR', []))->standing(0, $day, self::months()));
        self::assertSame([], (new PriceBook('EUR', [self::price(PriceKind::NodeHour, '1', $day)]))->standing(0, $day, self::months()));
    }

    public function test_use_is_paid_for_by_its_tiers(): void
    {
        $book = new PriceBook('EUR', [
            self::price(PriceKind::ScannedTebibyte, '5'), self::price(PriceKind::ScannedTebibyte, '4', 0, '1', '10'),
            self::price(PriceKind::ScannedTebibyte, '2', 0, '1', '100'), self::price(PriceKind::StorageMonth, '0.02', 0, '1', '0', 'warm'),
        ]);
        $cost = static fn (string $used, PriceKind $kind = PriceKind::ScannedTebibyte, string $name = ''): string => self::sum(
            $book->used($kind, $name, BigDecimal::of($used), BigDecimal::zero(), 5, 0, 10),
        );
        self::assertSame(
            ['0', '15', '50', '54', '410', '412'],
            array_map($cost(...), ['0', '3', '10', '11', '100', '101']),
        );
        self::assertSame(['4', '0'], [$cost('200', PriceKind::StorageMonth, 'warm'), $cost('200', PriceKind::StorageMonth, 'cold')]);
        self::assertCount(3, $book->used(PriceKind::ScannedTebibyte, '', BigDecimal::of('101'), BigDecimal::zero(), 5, 0, 10));
        $before = $book->used(PriceKind::ScannedTebibyte, '', BigDecimal::of('101'), BigDecimal::zero(), -1, 0, 10);
        self::assertSame([], $before, 'before there was a price');
    }

    public function test_a_month_in_parts_costs_what_it_costs_at_once(): void
    {
        $tiers = [['5', '0'], ['4', '10'], ['2', '100']];
        $book = new PriceBook('EUR', array_map(static fn (array $tier): Price => new Price(
            PriceKind::ScannedTebibyte, '', BigDecimal::of($tier[0]), 0, BigDecimal::one(), BigDecimal::of($tier[1]),
        ), $tiers));
        $random = new Randomizer(new Mt19937(11));
        for ($case = 0; $case < 60; $case++) {
            [$before, $sum, $last] = [BigDecimal::zero(), BigDecimal::zero(), ''];
            for ($day = 0; $day < 30; $day++) {
                $used = BigDecimal::ofUnscaledValue($random->getInt(0, 12_000), 3);
                foreach ($book->used(PriceKind::ScannedTebibyte, '', $used, $before, 5, $day, $day + 1) as $line) {
                    self::assertTrue($line->quantity->isPositive());
                    $sum = $sum->plus($line->amount);
                    $last = (string) $line->price;
                }
                $before = $before->plus($used);
            }
            // By hand: 5 up to 10, 4 up to 100, 2 above.
            $x = $before->toFloat();
            self::assertEqualsWithDelta(5 * min($x, 10) + 4 * max(0, min($x, 100) - 10) + 2 * max(0, $x - 100), $sum->toFloat(), 1e-6);
            self::assertSame($x > 100 ? '2' : '4', $last);
        }
    }

    public function test_the_latest_price_of_the_same_holds(): void
    {
        $book = new PriceBook('EUR', [
            self::price(PriceKind::NodeHour, '3', 50),
            self::price(PriceKind::NodeHour, '1', 0),
            self::price(PriceKind::NodeHour, '2', 50, '4'),
        ]);
        self::assertSame(['1'], array_map(static fn (Price $one): string => (string) $one->amount, $book->inForce(49)));
        self::assertSame(['2'], array_map(static fn (Price $one): string => (string) $one->amount, $book->inForce(50)), 'written later');
        self::assertSame(
            self::price(PriceKind::NodeHour, '1', above: '10')->key(),
            self::price(PriceKind::NodeHour, '9', 7, '3', '10.00')->key(),
        );
    }

    public function test_a_cluster_is_paid_for_to_the_last_cent_whatever_was_idle(): void
    {
        $of = static fn (array $follows, array $used, float $busy, IdleRule $rule): array => self::texts(
            Allocation::of(BigDecimal::of('100'), BigDecimal::of('10.01'), $follows, $used, $busy, $rule)->full(),
        );
        self::assertSame(
            ['a' => '52.51', Allocation::IDLE => '40.00', 'b' => '17.50'],
            $of(['a' => 3, 'b' => 1], ['a' => 3, 'b' => 1], 0.6, IdleRule::OwnLine),
        );
        self::assertSame(['a' => '82.51', 'b' => '27.50'], $of(['a' => 3, 'b' => 1], ['a' => 3, 'b' => 1], 0.6, IdleRule::InProportion));
        // Nobody used it: all of it is idle, and the use nobody is known for as well.
        self::assertSame([Allocation::IDLE => '110.01'], $of([], [], 0.0, IdleRule::InProportion));
        self::assertSame([Allocation::IDLE => '100.00', 'b' => '10.01'], $of([], ['b' => 1], 0.0, IdleRule::OwnLine));
    }

    public function test_idle_time_is_charged_to_those_who_reserved_it_as_far_as_they_left_it(): void
    {
        $of = static fn (array $unused, float $busy = 0.4, array $follows = ['a' => 3, 'b' => 1]): array => self::texts(Allocation::of(
            BigDecimal::of('100'), BigDecimal::zero(), $follows, [], $busy, IdleRule::ToReservers, unused: $unused,
        )->full());
        // Sixty of a hundred are idle: b left 25, c left 20, and nobody reserved the rest.
        self::assertSame(
            ['b' => '35.00', 'a' => '30.00', 'c' => '20.00', Allocation::IDLE => '15.00'],
            $of(['b' => 250_000, 'c' => 200_000]),
        );
        // They left more than was idle, since others used it: what was idle is shared among them.
        self::assertSame(['b' => '40.00', 'a' => '30.00', 'c' => '30.00'], $of(['b' => 600_000, 'c' => 600_000]));
        self::assertSame([Allocation::IDLE => '60.00', 'a' => '30.00', 'b' => '10.00'], $of([]));
        // Nothing ran: who reserved half of it pays half.
        self::assertSame([Allocation::IDLE => '50.00', 'c' => '50.00'], $of(['c' => 500_000], 0.0, []));
    }

    public function test_what_was_reserved_and_used_is_not_left(): void
    {
        // Something ran in 40% of the time, three quarters of it a's: a used 30% of the cluster, b 10%.
        $left = static fn (array $reserved): array => Reserve::unused($reserved, ['a' => 3, 'b' => 1], 0.4);
        self::assertSame(['a' => 200_000, 'b' => 150_000, 'c' => 70_000], $left(['a' => 500_000, 'b' => 250_000, 'c' => 70_000]));
        self::assertSame(['b' => 1], $left(['a' => 300_000, 'b' => 100_001]));
        self::assertSame(['a' => 7], Reserve::unused(['a' => 7], [], 0.9));
    }

    public function test_storage_follows_use_and_is_never_idle(): void
    {
        $of = static fn (array $follows): array => self::texts(Allocation::of(
            BigDecimal::of('100'), BigDecimal::zero(), $follows, [], 0.5, IdleRule::OwnLine, kept: BigDecimal::of('8.004'),
        )->full());
        self::assertSame([Allocation::IDLE => '50.00', 'a' => '43.50', 'b' => '14.50'], $of(['a' => 3, 'b' => 1]));
        self::assertSame([Allocation::IDLE => '108.00'], $of([]));
    }

    public function test_what_is_kept_is_paid_for_by_the_part_of_the_month_and_the_tier_it_is_in(): void
    {
        $month = static fn (int $at): array => [0, 30 * 86_400];
        $book = new PriceBook('EUR', [
            self::price(PriceKind::StorageMonth, '0.30'), self::price(PriceKind::StorageMonth, '0.10', above: '100'),
            self::price(PriceKind::StorageMonth, '0.05', from: 5 * 86_400, above: '100'), self::price(PriceKind::BackupMonth, '9'),
        ]);
        $said = static fn (array $lines): array => array_map(static fn (CostLine $line): array => [
            (string) $line->quantity->stripTrailingZeros(), (string) $line->amount->stripTrailingZeros(),
        ], $lines);
        $kept = static fn (string $level, int $day): array => $said($book->kept(
            PriceKind::StorageMonth, '', BigDecimal::of($level), $day * 86_400, ($day + 1) * 86_400, $month,
        ));
        // A day is a thirtieth: 100 at 0.30, and 50 at 0.10, which become cheaper.
        self::assertSame([['3.333333333333', '1'], ['1.666666666667', '0.166666666667']], $kept('150', 0));
        self::assertSame([['3.333333333333', '1'], ['1.666666666667', '0.083333333333']], $kept('150', 5));
        self::assertSame([['2', '0.6']], $kept('60', 0));
        self::assertSame([], $kept('0', 0));
        self::assertSame([], $said($book->kept(PriceKind::StorageMonth, 'cold', BigDecimal::of(9), 0, 86_400, $month)), 'no price');
    }

    public function test_allocations_always_add_up_to_the_bill(): void
    {
        $random = new Randomizer(new Mt19937(77));
        for ($round = 0; $round < 300; $round++) {
            $follows = $used = [];
            for ($i = $random->getInt(0, 30); $i > 0; $i--) {
                $follows["t{$i}"] = $random->getInt(0, 10 ** 12);
                $used['t'.$random->getInt(1, 40)] = $random->getInt(0, 10 ** 12);
            }
            [$standing, $byUse] = [
                BigDecimal::ofUnscaledValue($random->getInt(0, 10 ** 12), 6), BigDecimal::ofUnscaledValue($random->getInt(0, 10 ** 12), 7),
            ];
            $kept = BigDecimal::ofUnscaledValue($random->getInt(0, 10 ** 9), 6);
            $busy = $random->getInt(0, 1_200) / 1_000;
            $reserved = [];
            for ($i = $random->getInt(0, 4); $i > 0; $i--) {
                $reserved['t'.$random->getInt(1, 40)] = $random->getInt(1, 400_000);
            }
            foreach (IdleRule::cases() as $rule) {
                $unused = Reserve::unused($reserved, $follows, $busy);
                $allocation = Allocation::of($standing, $byUse, $follows, $used, $busy, $rule, [], $kept, $unused);
                $sum = BigDecimal::sum(BigDecimal::zero(), ...array_values($allocation->full()));
                self::assertTrue($sum->isEqualTo($allocation->total));
                self::assertTrue($allocation->total->minus($standing->plus($byUse)->plus($kept))->abs()->isLessThanOrEqualTo('0.015'));
                $amounts = array_values($allocation->full());
                for ($i = 1; $i < count($amounts); $i++) {
                    self::assertTrue($amounts[$i]->isLessThanOrEqualTo($amounts[$i - 1]));
                }
            }
        }
    }

    /**
     * @param  array{BigDecimal, array<string, int>}  ...$more
     */
    private static function allocated(array ...$more): Allocation
    {
        return Allocation::of(
            BigDecimal::of('100'),
            BigDecimal::of('10'),
            ['a' => 3, 'b' => 1],
            ['a' => 1, 'c' => 1],
            0.5,
            IdleRule::OwnLine,
            array_values($more),
        );
    }

    public function test_further_costs_of_use_are_given_to_those_whose_use_made_them(): void
    {
        $said = static fn (Allocation $one): array => array_map(static fn (BigDecimal $part): string => (string) $part, $one->full());
        self::assertSame([Allocation::IDLE => '50.00', 'a' => '42.50', 'b' => '12.50', 'c' => '5.00'], $said(self::allocated()));
        // Seven euro of workers: two thirds are b's, one is d's; and three that are nobody's.
        $more = self::allocated([BigDecimal::of('7'), ['b' => 2, 'd' => 1]], [BigDecimal::of('3'), []]);
        self::assertSame([Allocation::IDLE => '53.00', 'a' => '42.50', 'b' => '17.17', 'c' => '5.00', 'd' => '2.33'], $said($more));
        self::assertSame('120.00', (string) $more->total);
        // None of nothing changes nothing.
        self::assertSame($said(self::allocated()), $said(self::allocated([BigDecimal::zero(), ['b' => 2]])));
    }

    public function test_allocations_with_further_costs_always_add_up(): void
    {
        $random = new Randomizer(new Mt19937(21));
        for ($round = 0; $round < 300; $round++) {
            $more = [];
            $exact = BigDecimal::ofUnscaledValue($random->getInt(0, 10 ** 9), 5);
            for ($i = $random->getInt(0, 4); $i > 0; $i--) {
                $use = [];
                for ($n = $random->getInt(0, 6); $n > 0; $n--) {
                    $use['t'.$random->getInt(1, 9)] = $random->getInt(0, 1_000_000);
                }
                $more[] = [BigDecimal::ofUnscaledValue($random->getInt(-(10 ** 6), 10 ** 9), 6), $use];
            }
            $allocation = Allocation::of($exact, BigDecimal::zero(), ['t1' => 5], [], 0.25, IdleRule::OwnLine, $more);
            $sum = BigDecimal::sum(BigDecimal::zero(), ...array_values($allocation->full()));
            self::assertTrue($sum->isEqualTo($allocation->total));
            $all = BigDecimal::sum($exact, ...array_map(static fn (array $one): BigDecimal => $one[0], $more));
            self::assertTrue($allocation->total->minus($all)->abs()->isLessThanOrEqualTo('0.03'), 'half a cent for each cost');
        }
    }

    public function test_the_order_prices_are_written_in_changes_nothing(): void
    {
        $prices = [
            self::price(PriceKind::ScannedTebibyte, '2', 0),
            self::price(PriceKind::NodeHour, '1.20', 0, '12'),
            self::price(PriceKind::Discount, '5', 0),
            self::price(PriceKind::MonthlyFee, '90', 0),
            self::price(PriceKind::NodeHour, '1.50', 5 * self::HOUR, '12'),
            self::price(PriceKind::WorkerHour, '0.40', 0),
        ];
        $sums = [];
        foreach ([$prices, array_reverse($prices), [...array_slice($prices, 3), ...array_slice($prices, 0, 3)]] as $order) {
            $book = new PriceBook('EUR', $order);
            $sums[] = [
                (string) BigDecimal::of(self::sum($book->standing(0, 24 * self::HOUR, self::months())))->toScale(8, RoundingMode::HALF_UP),
                self::sum($book->used(PriceKind::ScannedTebibyte, '', BigDecimal::of(3), BigDecimal::zero(), 0, 0, self::HOUR)),
                self::sum($book->used(PriceKind::WorkerHour, '', BigDecimal::of(10), BigDecimal::zero(), 0, 0, self::HOUR)),
            ];
        }
        self::assertSame(['5.7', '3.8'], array_map(
            static fn (string $sum): string => (string) BigDecimal::of($sum)->stripTrailingZeros(),
            array_slice($sums[0], 1),
        ));
        self::assertSame([$sums[0], $sums[0]], [$sums[1], $sums[2]]);
    }
}
