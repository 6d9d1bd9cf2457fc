<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Sql\RangeRewrites;
use PHPUnit\Framework\Attributes\TestWith;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Filters said as spans answer what the filters themselves answer, whatever the constant.
 */
final class RangeRewritesTest extends WarehouseTestCase
{
    private const TYPES = ['ts' => 'timestamp', 'day' => 'date'];

    protected function setUp(): void
    {
        parent::setUp();
        $this->sql('CREATE TABLE w (n bigint, ts timestamp, day date)');
        $random = new Randomizer(new Mt19937(5));
        $rows = [];
        for ($i = 0; $i < 900; $i++) {
            $date = gmdate('Y-m-d', 1_735_000_000 + $random->getInt(-90, 420) * 86400);
            $time = $i % 3 === 0 ? '00:00:00' : gmdate('H:i:s', $random->getInt(0, 86399));
            $rows[] = $i % 40 === 0 ? "({$i}, NULL, NULL)" : "({$i}, TIMESTAMP '{$date} {$time}', DATE '{$date}')";
        }
        $this->sql('INSERT INTO w VALUES '.implode(', ', $rows));
    }

    public function test_every_unit_comparison_and_constant_gives_the_same_rows(): void
    {
        $random = new Randomizer(new Mt19937(6));
        $tried = 0;
        for ($i = 0; $i < 600; $i++) {
            $column = $i % 2 === 0 ? 'ts' : 'day';
            $unit = ['day', 'week', 'month', 'quarter', 'year', 'number', 'cast', 'date'][$random->getInt(0, 7)];
            $date = gmdate('Y-m-d', 1_735_000_000 + $random->getInt(-100, 430) * 86400);
            $date = $random->getInt(0, 2) === 0 ? substr($date, 0, 8).'01' : $date;
            $constant = $unit === 'number' ? (string) $random->getInt(2023, 2027) : ["DATE '{$date}'", "'{$date}'"][$random->getInt(0, 1)];
            $wrapped = match ($unit) {
                'number' => "year(w.{$column})",
                'cast' => "CAST({$column} AS date)",
                'date' => "date({$column})",
                default => "date_trunc('{$unit}', {$column})",
            };
            $operator = ['=', '<', '<=', '>', '>='][$random->getInt(0, 4)];
            $condition = $random->getInt(0, 1) === 0 ? "{$wrapped} {$operator} {$constant}" : "{$constant} {$operator} {$wrapped}";
            $sql = 'SELECT n FROM w WHERE '.($random->getInt(0, 3) === 0 ? "NOT ({$condition})" : $condition).' ORDER BY n';
            $other = RangeRewrites::statement($sql, self::TYPES);
            self::assertIsString($other, $sql);
            self::assertSame($this->rows($sql), $this->rows($other), "{$sql}\n{$other}");
            $tried++;
        }
        self::assertSame(600, $tried);
    }

    public function test_what_was_registered_for_one_constant_is_right_for_another(): void
    {
        $of = static fn (string $constant): string => "SELECT count(*) FROM w WHERE date_trunc('month', ts) = DATE '{$constant}'";
        $this->warehouse->rewrite((new Fingerprinter(Dialect::Ansi))->of($of('2025-02-01'))->id, self::TYPES);
        $month = $this->rows("SELECT count(*) FROM w WHERE ts >= TIMESTAMP '2025-02-01 00:00:00' AND ts < TIMESTAMP '2025-03-01 00:00:00'");
        self::assertGreaterThan(0, $month[0][0]);
        self::assertSame($month, $this->rows($of('2025-02-01')));
        self::assertSame([[0]], $this->rows($of('2025-02-15')));
        self::assertSame([[0]], $this->rows($of('2025-02-28')));
    }

    #[TestWith(["date_trunc('month', ts) = DATE '2025-02-30'"])]
    #[TestWith(["date_trunc('month', ts) = TIMESTAMP '2025-02-01 10:00:00'"])]
    #[TestWith(["date_trunc('hour', ts) = TIMESTAMP '2025-02-01 00:00:00'"])]
    #[TestWith(["date_trunc('month', ts) <> DATE '2025-02-01'"])]
    #[TestWith(['year(ts) = 12'])]
    #[TestWith(['year(ts) = 99999'])]
    #[TestWith(['year(ts) = n'])]
    #[TestWith(["date(ts + INTERVAL 1 DAY) = '2025-02-01'"])]
    public function test_what_is_no_span_stays_as_it_is(string $condition): void
    {
        self::assertNull(RangeRewrites::statement("SELECT n FROM w WHERE {$condition}", self::TYPES));
    }

    public function test_only_the_filter_changes_and_never_a_text_that_looks_like_it(): void
    {
        $sql = "SELECT 'year(ts) = 2025' FROM w WHERE year(ts) = 2025 OR n = 3";
        self::assertSame(
            "SELECT 'year(ts) = 2025' FROM w WHERE ts >= TIMESTAMP '2025-01-01 00:00:00' AND ts < TIMESTAMP '2026-01-01 00:00:00' OR n = 3",
            RangeRewrites::statement($sql, self::TYPES),
        );
    }
}
