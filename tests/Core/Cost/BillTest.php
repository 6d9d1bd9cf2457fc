<?php

declare(strict_types=1);

namespace Tests\Core\Cost;

use Brick\Math\BigDecimal;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Cost\Bill\Agreement;
use Fulcrion\Core\Cost\Bill\BillError;
use Fulcrion\Core\Cost\Bill\BillLine;
use Fulcrion\Core\Cost\Bill\BillMatch;
use Fulcrion\Core\Cost\Bill\ChargeCategory;
use Fulcrion\Core\Cost\Bill\FocusReader;
use Fulcrion\Core\Cost\Bill\Reconciliation;
use Fulcrion\Core\Cost\CostLine;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Parquet\Compression;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Parquet\ParquetWriter;
use Fulcrion\Core\Parquet\StringSource;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Bills in the open format, and how they stand to what was computed.
 */
final class BillTest extends TestCase
{
    private const DAY = 86_400;

    private const HEAD = 'BillingAccountId,BilledCost,BillingCurrency,ChargeCategory,ChargePeriodStart,ChargePeriodEnd,ResourceId,'
        .'PricingQuantity,PricingUnit,ChargeDescription';

    private static function bill(int $day, string $amount, ?string $quantity = null, string $resource = 'fern'): BillLine
    {
        return new BillLine(
            'a', $resource, ChargeCategory::Usage, PriceKind::NodeHour, $day * self::DAY, ($day + 1) * self::DAY, BigDecimal::of($amount),
            'EUR', $quantity === null ? null : BigDecimal::of($quantity),
        );
    }

    private static function cost(int $day, string $amount, string $quantity, int $hour = 0): CostLine
    {
        $from = $day * self::DAY + $hour * 3_600;

        return new CostLine(
            PriceKind::NodeHour, '', BigDecimal::of($quantity), BigDecimal::one(), BigDecimal::of($amount), $from, ($day + 1) * self::DAY,
        );
    }

    /**
     * @return list<string>
     */
    private static function told(Reconciliation $of): array
    {
        $told = array_map(
            static fn (BillMatch $one): string => ltrim($one->cluster, "\0")." {$one->agreement->value} {$one->billed} {$one->computed} "
                .implode(',', array_map(static fn (int $day): int => intdiv($day, self::DAY), $one->days)),
            $of->matches,
        );
        sort($told);

        return $told;
    }

    public function test_each_way_a_bill_can_stand_to_what_was_computed(): void
    {
        $credit = new BillLine('a', 'fern', ChargeCategory::Credit, null, 0, self::DAY, BigDecimal::of('-50'), 'EUR');
        $tax = new BillLine('a', 'fern', ChargeCategory::Tax, null, 0, self::DAY, BigDecimal::of('7'), 'EUR');
        $of = Reconciliation::of(
            [
                self::bill(1, '24', '24'), self::bill(2, '24.01', '24'), self::bill(3, '24.02', '24'), self::bill(4, '36', '36'),
                self::bill(5, '24'), self::bill(6, '30'), self::bill(7, '9', '24'), self::bill(8, '9', '24'),
                self::bill(12, '20', '24'),                self::bill(9, '5', '1', 'someone'), $credit, $tax,
            ],
            ['f' => [
                self::cost(1, '24', '24'), self::cost(2, '12', '12'), self::cost(2, '12', '12', 12), self::cost(3, '24', '24'),
                self::cost(4, '24', '24'), self::cost(5, '24', '24'), self::cost(6, '24', '24'), self::cost(10, '24', '24'),
                self::cost(11, '0', '24'), self::cost(12, '24', '24'),
            ]],
            ['fern' => 'f'],
            ['f' => [7 * self::DAY => true]],
            ['f' => [self::DAY, 8 * self::DAY]],
        );
        self::assertSame([
            'f agrees 72.01 72 1,2,5',
            'f only_billed -50 0 0',
            'f only_billed 7 0 0',
            'f only_billed 9 0 7',
            'f only_billed 9 0 8',
            'f only_computed 0 24 10',
            'f other_price 20 24 12',
            'f other_price 24.02 24 3',
            'f other_quantity 30 24 6',
            'f other_quantity 36 24 4',
        ], array_values(array_filter(
            self::told($of),
            static fn (string $line): bool => ! str_starts_with($line, 'someone'),
        )));
        self::assertSame('162.03', (string) $of->billed()->stripTrailingZeros());
        self::assertSame('-29.97', (string) $of->difference()->stripTrailingZeros());
        $causes = array_map(static fn (BillMatch $one): string => $one->cause(), $of->differences());
        foreach ([
            'A credit', 'A tax', 'The bill has 1.0008 for each, the price book 1:', 'No cluster is known by this resource', 'left on?',
            'The bill has no such line', 'The price book has no price', 'does not say how many',
        ] as $part) {
            self::assertNotEmpty(array_filter($causes, static fn (string $cause): bool => str_contains($cause, $part)), $part);
        }
        self::assertSame('-50', (string) $of->differences()[0]->difference());
    }

    public function test_both_sides_add_up_whatever_is_billed(): void
    {
        $random = new Randomizer(new Mt19937(22));
        for ($round = 0; $round < 200; $round++) {
            $lines = $costs = [];
            [$billed, $computed] = [BigDecimal::zero(), BigDecimal::zero()];
            for ($i = $random->getInt(0, 40); $i > 0; $i--) {
                $from = $random->getInt(0, 5 * self::DAY);
                $amount = BigDecimal::ofUnscaledValue($random->getInt(-100_000, 900_000), $random->getInt(0, 6));
                $category = $random->getInt(0, 4) === 0 ? ChargeCategory::Credit : ChargeCategory::Usage;
                $lines[] = new BillLine(
                    'a', 'r'.$random->getInt(0, 3), $category, $category === ChargeCategory::Credit ? null : PriceKind::NodeHour, $from,
                    $from + $random->getInt(1, 4 * self::DAY), $amount, 'EUR', $random->getInt(0, 1) === 0 ? null : BigDecimal::of(3),
                );
                $billed = $billed->plus($amount);
            }
            for ($i = $random->getInt(0, 40); $i > 0; $i--) {
                $amount = BigDecimal::ofUnscaledValue($random->getInt(0, 900_000), 4);
                $costs['c'.$random->getInt(0, 1)][] = self::cost($random->getInt(0, 6), (string) $amount, '3');
                $computed = $computed->plus($amount);
            }
            $of = Reconciliation::of($lines, $costs, ['r0' => 'c0', 'r1' => 'c1', 'r2' => 'c1']);
            self::assertTrue($of->billed()->isEqualTo($billed));
            self::assertTrue($of->computed()->isEqualTo($computed));
            $sum = BigDecimal::sum(
                BigDecimal::zero(),
                ...array_map(static fn (BillMatch $one): BigDecimal => $one->difference(), $of->matches),
            );
            self::assertTrue($of->difference()->isEqualTo($sum));
            // What differs and what agrees is all there is, and what agrees does so to a cent a day.
            foreach ($of->matches as $match) {
                if ($match->agreement === Agreement::Agrees) {
                    self::assertTrue($match->difference()->abs()->isLessThanOrEqualTo(BigDecimal::of('0.01')->multipliedBy(
                        count($match->days),
                    )));
                }
            }
        }
    }

    public function test_a_line_of_a_month_meets_every_day_of_it(): void
    {
        $fee = new BillLine(
            'a', 'fern', ChargeCategory::Purchase, PriceKind::MonthlyFee, 0, 30 * self::DAY, BigDecimal::of('420'), 'EUR',
            BigDecimal::one(),
        );
        $costs = array_map(static fn (int $day): CostLine => new CostLine(
            PriceKind::MonthlyFee, '', BigDecimal::of('0.033333333333'), BigDecimal::of(420), BigDecimal::of('14'), $day * self::DAY,
            ($day + 1) * self::DAY,
        ), range(0, 29));
        $of = Reconciliation::of([$fee], ['f' => $costs], ['fern' => 'f']);
        self::assertCount(1, $of->matches);
        self::assertSame([Agreement::Agrees, 30, '420'], [
            $of->matches[0]->agreement, count($of->matches[0]->days), (string) $of->matches[0]->billed->stripTrailingZeros(),
        ]);
        self::assertSame([], $of->differences());
    }

    public function test_the_open_format_is_read_as_text_and_as_columns(): void
    {
        $rows = [
            ['grow', '28.8', 'EUR', 'Usage', '2026-11-01T00:00:00Z', '2026-11-02T00:00:00Z', 'fernhill', '24', 'Hours', 'Nodes'],
            ['grow', '-1.5e1', 'EUR', 'Credit', '2026-11-01', '2026-12-01', 'wren', '', '', 'Thanks, "again"'],
            ['grow', '2.10', 'EUR', 'Usage', '2026-11-01 10:00:00', '2026-11-01T13:00:00+02:00', 'fernhill', '1', 'TiB', ''],
            ['', '3', 'EUR', 'Adjustment', '2026-11-01', '2026-11-02', 'fernhill', '', 'Hours', ''],
            ['', '3', 'EUR', 'Usage', '2026-11-01', '2026-11-02', 'fernhill', '4', 'Apples', ''],
            ['', '3', 'EUR', 'Usage', '2026-11-01', '2026-11-02', 'fernhill', '4', 'GiB-Months', 'Tables'],
            ['', '3', 'EUR', 'Usage', '2026-11-01', '2026-11-02', 'fernhill', '4', 'gib-months', 'Nightly Backups'],
            ['', '3', 'EUR', 'Usage', '2026-11-01', '2026-11-02', 'fernhill', '4', 'Hours', 'Burst capacity'],
            ['', '3', 'EUR', 'Usage', '2026-11-01', '2026-11-02', 'fernhill', '4', 'GB', 'Sent out'],
        ];
        $file = fopen('php://temp', 'r+');
        self::assertIsResource($file);
        fputcsv($file, [...explode(',', self::HEAD), 'x_More'], ',', '"', '');
        foreach ($rows as $row) {
            fputcsv($file, [...$row, 'passed over'], ',', '"', '');
        }
        rewind($file);
        $csv = FocusReader::csv("\xEF\xBB\xBF".stream_get_contents($file));
        $column = static fn (string $name): Column => new Column($name, ColumnType::of(TypeKind::Text));
        $columns = array_map($column, explode(',', self::HEAD));
        $parquet = (new ParquetWriter(Compression::Gzip))->write(
            $columns,
            array_map(static fn (int $i): array => array_column($rows, $i), array_keys($columns)),
        );
        self::assertEquals($csv, FocusReader::parquet(ParquetReader::open(new StringSource($parquet))));
        self::assertSame(
            [
                PriceKind::NodeHour, null, PriceKind::ScannedTebibyte, PriceKind::Discount, null, PriceKind::StorageMonth,
                PriceKind::BackupMonth, PriceKind::BurstHour, PriceKind::NetworkOut,
            ],
            array_map(static fn (BillLine $line): ?PriceKind => $line->kind, $csv),
        );
        self::assertSame(['28.8', '-15', '2.1'], array_map(static fn (int $i): string => (string) $csv[$i]->amount, [0, 1, 2]));
        self::assertSame([3_600, 30 * self::DAY], [$csv[2]->to - $csv[2]->from, $csv[1]->to - $csv[1]->from]);
        self::assertSame('Thanks, "again"', $csv[1]->description);
        self::assertNull($csv[1]->quantity);
    }

    #[DataProvider('bad')]
    public function test_what_is_no_bill_is_refused_with_its_line(string $csv, string $message): void
    {
        $this->expectException(BillError::class);
        $this->expectExceptionMessage($message);
        FocusReader::csv($csv);
    }

    /**
     * @return iterable<string, array{string, string}>
     */
    public static function bad(): iterable
    {
        $line = static fn (string $of = '', string $to = ''): string => self::HEAD."\ngrow,1,EUR,Usage,2026-11-01,2026-11-02,f,1,Hours,\n".
            str_replace($of, $to, 'grow,2.5,EUR,Usage,2026-11-03,2026-11-04,f,9,Hours,')."\n";
        yield 'empty' => ['', 'Line 1: the column BilledCost, BillingCurrency'];
        yield 'another file' => ["a,b\n1,2\n", 'Line 1: the column BilledCost'];
        yield 'one is missing' => [str_replace('ResourceId', 'Resource', $line()), 'Line 1: the column ResourceId is missing'];
        yield 'no lines' => [self::HEAD."\n\n", 'The bill has no lines'];
        yield 'an amount with a comma' => [$line('2.5', '"2,5"'), 'Line 3: BilledCost is not a number'];
        yield 'no amount' => [$line('2.5', ''), 'Line 3: BilledCost is not a number'];
        yield 'a quantity of words' => [$line(',9,', ',nine,'), 'Line 3: PricingQuantity is not a number'];
        yield 'a category of its own' => [$line('Usage', 'Gift'), 'Line 3: ChargeCategory is none of Usage, Purchase'];
        yield 'a day there is not' => [$line('2026-11-04', '2026-11-31'), 'Line 3: ChargePeriodEnd is not a moment'];
        yield 'a day of another style' => [$line('2026-11-03', '03/11/2026'), 'Line 3: ChargePeriodStart is not a moment'];
        yield 'backwards' => [$line('2026-11-04', '2026-11-03'), 'Line 3: ChargePeriodEnd is not after'];
        yield 'no currency' => [$line('EUR', 'euro'), 'Line 3: BillingCurrency is not a code'];
        yield 'two currencies' => [$line('EUR', 'USD'), 'The bill is in EUR and USD'];
        yield 'not text' => ["PAR1\xff\xfe\xff", 'The file is not UTF-8'];
        yield 'a line cut short' => [self::HEAD."\ngrow,1,EUR\n", 'Line 2: ChargeCategory is none of'];
    }
}
