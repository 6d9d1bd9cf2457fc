<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\MariaDbValues;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\TypeKind;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class MariaDbValuesTest extends TestCase
{
    /**
     * @return iterable<string, array{string, int, list<string|null>, TypeKind, list<int|float|string|null>}>
     */
    public static function columns(): iterable
    {
        yield 'whole numbers' => ['LONGLONG', 0, ['0', '-7', null, '9223372036854775807'], TypeKind::Bigint, [0, -7, null, PHP_INT_MAX]];
        yield 'one beyond 64 bits' => ['LONGLONG', 0, ['1', '9223372036854775808'], TypeKind::Text, ['1', '9223372036854775808']];
        yield 'a number shown with leading noughts' => ['LONG', 0, ['007'], TypeKind::Text, ['007']];
        yield 'years' => ['YEAR', 0, ['2026'], TypeKind::Bigint, [2026]];
        yield 'floating point' => ['DOUBLE', 31, ['1.5', '-2e300', null], TypeKind::Double, [1.5, -2e300, null]];
        yield 'decimals' => ['NEWDECIMAL', 2, ['2.50', '-4.00', '0.00', '-0.07', null], TypeKind::Decimal, [250, -400, 0, -7, null]];
        yield 'decimals without a point' => ['NEWDECIMAL', 0, ['12', '-3'], TypeKind::Decimal, [12, -3]];
        yield '18 digits' => ['NEWDECIMAL', 3, ['999999999999999.999'], TypeKind::Decimal, [999_999_999_999_999_999]];
        yield '19 digits' => ['NEWDECIMAL', 3, ['1.000', '9999999999999999.999'], TypeKind::Text, ['1.000', '9999999999999999.999']];
        yield 'more places than fit' => ['NEWDECIMAL', 19, ['0.0000000000000000001'], TypeKind::Text, ['0.0000000000000000001']];
        yield 'days' => ['DATE', 0, ['1970-01-02', '1969-12-31', '2024-02-29', null], TypeKind::Date, [1, -1, 19_782, null]];
        yield 'a day that is none' => ['DATE', 0, ['2026-01-01', '0000-00-00'], TypeKind::Text, ['2026-01-01', '0000-00-00']];
        yield 'moments' => [
            'DATETIME', 6, ['1970-01-01 00:00:01.000002', '2026-11-20 06:00:00'], TypeKind::Timestamp, [1_000_002, 1_795_154_400_000_000],
        ];
        yield 'a moment that is none' => ['TIMESTAMP', 0, ['0000-00-00 00:00:00'], TypeKind::Text, ['0000-00-00 00:00:00']];
        yield 'texts' => ['VAR_STRING', 0, ['', '12', null], TypeKind::Text, ['', '12', null]];
        yield 'what is not known here' => ['GEOMETRY', 0, ["\x00\xff"], TypeKind::Text, ["\x00\xff"]];
        yield 'nothing at all' => ['NEWDECIMAL', 4, [], TypeKind::Decimal, []];
        yield 'nothing but nulls' => ['DATE', 0, [null, null], TypeKind::Date, [null, null]];
    }

    /**
     * @param  list<string|null>  $sent
     * @param  list<int|float|string|null>  $values
     */
    #[DataProvider('columns')]
    public function test_a_column_is_read_as_its_type_where_every_value_fits(
        string $type,
        int $scale,
        array $sent,
        TypeKind $kind,
        array $values,
    ): void {
        $meta = ['name' => 'a', 'native_type' => $type, 'precision' => $scale];
        [$columns, $rows] = MariaDbValues::read([$meta], array_map(static fn (?string $value): array => [$value], $sent));
        self::assertSame($kind, $columns[0]->type->kind);
        self::assertSame($values, array_column($rows, 0));
        // What a page shows of it is what was sent.
        foreach ($sent as $i => $text) {
            if ($text !== null && $kind !== TypeKind::Double && $kind !== TypeKind::Timestamp) {
                self::assertSame($text, $columns[0]->type->show($rows[$i][0]));
            }
        }
    }

    public function test_columns_do_not_touch_each_other(): void
    {
        [$columns, $rows] = MariaDbValues::read(
            [['name' => 'n', 'native_type' => 'LONG'], [], ['name' => 'd', 'native_type' => 'NEWDECIMAL', 'precision' => 1]],
            [['1', 'x', '1.5'], ['2', null, '99999999999999999999.5']],
        );
        self::assertSame(['n', 'column1', 'd'], array_map(static fn (Column $column): string => $column->name, $columns));
        self::assertSame([[1, 'x', '1.5'], [2, null, '99999999999999999999.5']], $rows);
    }

    public function test_decimals_come_back_as_they_were_sent(): void
    {
        $random = new Randomizer(new Mt19937(6));
        for ($i = 0; $i < 500; $i++) {
            $scale = $random->getInt(1, 9);
            $whole = (string) $random->getInt(0, 10 ** $random->getInt(0, 8));
            $part = str_pad((string) $random->getInt(0, 10 ** $scale - 1), $scale, '0', STR_PAD_LEFT);
            $text = ($random->getInt(0, 1) === 1 && (int) ($whole.$part) !== 0 ? '-' : '')."{$whole}.{$part}";
            $meta = [['name' => 'd', 'native_type' => 'NEWDECIMAL', 'precision' => $scale]];
            [$columns, $rows] = MariaDbValues::read($meta, [[$text]]);
            self::assertSame($text, $columns[0]->type->show($rows[0][0]));
        }
    }
}
