<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\RunMeter;
use Fulcrion\Core\Limits\StatementEstimate;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Physical\StoppedRun;
use Fulcrion\Practice\Sql\Session;
use PHPUnit\Framework\Attributes\DataProvider;

/**
 * What a statement is expected to read before it is run, and where it ends when it has read too much.
 */
final class EstimateTest extends WarehouseTestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        $this->numbers('t', 4_000, 'PLACED BY (n) CUT BY MONTH OF day CHUNKS OF 100 ROWS');
        $this->numbers('copied', 300, 'PLACED EVERYWHERE');
        $this->sql("CREATE VIEW v AS SELECT n, word FROM t WHERE day < DATE '2026-01-15'");
    }

    private function estimate(string $sql): ?StatementEstimate
    {
        return $this->engine->estimate($sql, new Session('s', 'tester', self::NOW));
    }

    private function metered(string $sql, RunMeter $meter): void
    {
        $this->sql($sql, new Limits(30, 100_000, null, static fn (): int => (int) hrtime(true), PHP_INT_MAX, $meter));
    }

    /**
     * @return iterable<string, array{string, bool}> statement, and whether it reads just what is expected
     */
    public static function statements(): iterable
    {
        yield 'all of a table' => ['SELECT * FROM t', true];
        yield 'one column' => ['SELECT sum(n) FROM t', true];
        yield 'by the bounds of chunks' => ["SELECT n FROM t WHERE day >= DATE '2026-02-05'", true];
        yield 'through a view' => ['SELECT count(*), max(word) FROM v', true];
        yield 'two tables' => ['SELECT t.n FROM t, copied c WHERE t.k = c.k AND c.n < 20', false];
        yield 'a subquery' => ['SELECT n FROM t WHERE n > (SELECT max(n) FROM copied)', false];
        yield 'a few rows' => ['SELECT n FROM t LIMIT 3', false];
        yield 'a copy on every node' => ['SELECT word, count(*) FROM copied GROUP BY word', true];
        yield 'several together' => ['SELECT n FROM t UNION ALL SELECT n FROM copied', true];
    }

    #[DataProvider('statements')]
    public function test_no_more_is_read_than_was_expected(string $sql, bool $isExact): void
    {
        $expected = $this->estimate($sql) ?? self::fail('no estimate');
        $totals = PlanTotals::of($this->planOf($sql));
        $isExact ? self::assertSame($totals->bytesScanned, $expected->bytes)
            : self::assertGreaterThanOrEqual($totals->bytesScanned, $expected->bytes);
        self::assertGreaterThan(0, $expected->us);
        // What comes above the scans takes longer still.
        if ($isExact) {
            self::assertLessThanOrEqual($totals->durationUs, $expected->us);
        }
    }

    public function test_the_meter_counts_what_the_plan_counts(): void
    {
        foreach (['SELECT sum(n) FROM t', 'SELECT n FROM t WHERE k = 3', 'SELECT t.n FROM t, copied c WHERE t.n = c.n'] as $sql) {
            $meter = new RunMeter();
            $this->metered($sql, $meter);
            self::assertSame(PlanTotals::of($this->planOf($sql))->bytesScanned, $meter->bytes(), $sql);
        }
    }

    public function test_what_is_written_is_expected_by_what_it_reads(): void
    {
        self::assertSame(0, $this->estimate("INSERT INTO copied VALUES (1, 1, 'x', NULL)")->bytes ?? 0);
        self::assertNull($this->estimate('DROP TABLE copied'));
        self::assertSame(
            $this->estimate('SELECT n, k FROM t')?->bytes,
            $this->estimate('CREATE TABLE made AS SELECT n, k FROM t')?->bytes,
        );
    }

    public function test_a_run_ends_where_it_has_read_too_much_and_not_before(): void
    {
        $sql = 'SELECT n, word FROM t';
        $all = $this->estimate($sql)->bytes ?? 0;
        $this->metered($sql, new RunMeter($all));
        $meter = new RunMeter($all - 1);
        try {
            $this->metered($sql, $meter);
            self::fail('not stopped');
        } catch (StoppedRun $stopped) {
            self::assertFalse($stopped->byHand);
            self::assertSame('Stopped: it has read more than a single statement may.', $stopped->getMessage());
            self::assertSame(LimitMeasure::Bytes, $meter->passed());
        }
        // Long before its end where the limit is small.
        $early = new RunMeter(intdiv($all, 10));
        try {
            $this->metered($sql, $early);
            self::fail('not stopped');
        } catch (StoppedRun) {
            self::assertLessThan($all / 2, $early->bytes());
        }
    }

    public function test_a_run_ends_where_it_takes_too_long_on_the_modelled_cluster(): void
    {
        $sql = 'SELECT count(*) FROM t a JOIN t b ON a.k = b.k';
        $us = $this->planOf($sql)->sumUs() ?? 0;
        self::assertGreaterThan(0, $us);
        $this->metered($sql, new RunMeter(null, $us));
        $meter = new RunMeter(null, intdiv($us, 2));
        $this->expectException(StoppedRun::class);
        $this->expectExceptionMessage('Stopped: it takes longer on the modelled cluster than a single statement may.');
        $this->metered($sql, $meter);
    }
}
