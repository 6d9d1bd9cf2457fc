<?php

declare(strict_types=1);

namespace Tests\Core\Statements;

use Fulcrion\Core\Statements\Patterns\Pattern;
use Fulcrion\Core\Statements\Patterns\PatternFinder;
use Fulcrion\Core\Statements\Patterns\PatternKind;
use Fulcrion\Core\Statements\Patterns\SessionRun;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class PatternFinderTest extends TestCase
{
    private const LIST = 'SELECT order_no FROM orders WHERE day = ?';

    private const LOOKUP = 'SELECT name FROM crew WHERE id = ?';

    private const INSERT = 'INSERT INTO field.crew (id) VALUES (?)';

    private int $order = 0;

    private int $nowUs = 1_000_000;

    public function test_a_list_and_a_lookup_for_each_of_its_rows(): void
    {
        $runs = [];
        for ($round = 0; $round < 3; $round++) {
            $runs[] = $this->run1(self::LIST, rows: 6);
            for ($i = 0; $i < 6; $i++) {
                $runs[] = $this->run1(self::LOOKUP, exact: "{$i}", rows: 1, durationUs: 200);
            }
        }
        $expected = [new Pattern(PatternKind::RepeatedLookup, self::id(self::LIST), self::id(self::LOOKUP), 3, 18, 3600)];
        self::assertEquals($expected, PatternFinder::find($runs));
        // In whatever order the server tells them.
        self::assertEquals($expected, PatternFinder::find(array_reverse($runs)));
    }

    public function test_two_lookups_for_each_row_are_both_told(): void
    {
        $runs = [$this->run1(self::LIST, rows: 5)];
        for ($i = 0; $i < 5; $i++) {
            $runs[] = $this->run1(self::LOOKUP, exact: "{$i}");
            $runs[] = $this->run1('SELECT SUM(kilos) FROM pick WHERE crew = ?', exact: "{$i}");
        }
        self::assertCount(2, PatternFinder::find($runs));
    }

    /**
     * @return iterable<string, array{array<string, mixed>, bool}>
     */
    public static function lists(): iterable
    {
        yield 'five rows and five lookups' => [[], true];
        yield 'four rows are no list' => [['listRows' => 4], false];
        yield 'four lookups may be chance' => [['lookups' => 4], false];
        yield 'three rows each are still lookups' => [['rows' => 3], true];
        yield 'four rows each are lists themselves' => [['rows' => 4], false];
        yield 'the same value half of the time' => [['lookups' => 6, 'values' => 3], true];
        yield 'the same value most of the time' => [['lookups' => 7, 'values' => 3], false];
        yield 'a pause of a second' => [['pauseUs' => 1_000_000], true];
        yield 'a longer pause' => [['pauseUs' => 1_000_001], false];
        yield 'in another session' => [['session' => 'b'], false];
        yield 'writes' => [['text' => 'UPDATE crew SET name = ? WHERE id = ?'], false];
        yield 'in brackets' => [['text' => '(SELECT name FROM crew WHERE id = ?)'], true];
    }

    /**
     * @param  array<string, mixed>  $of
     */
    #[DataProvider('lists')]
    public function test_what_counts_as_a_lookup_for_each_row(array $of, bool $isFound): void
    {
        $of += ['listRows' => 5, 'lookups' => 5, 'rows' => 1, 'values' => 99, 'pauseUs' => 10, 'session' => 'a', 'text' => self::LOOKUP];
        $runs = [$this->run1(self::LIST, rows: $of['listRows'])];
        $this->nowUs += $of['pauseUs'] - 10;
        for ($i = 0; $i < $of['lookups']; $i++) {
            $exact = (string) ($i % $of['values']);
            $runs[] = $this->run1($of['text'], exact: $exact, rows: $of['rows'], session: $of['session']);
        }
        self::assertSame($isFound, PatternFinder::find($runs) !== []);
    }

    public function test_frames_of_transactions_are_no_statements(): void
    {
        $runs = [$this->run1(self::LIST, rows: 20)];
        for ($i = 0; $i < 12; $i++) {
            $runs[] = $this->run1('BEGIN', rows: 0);
            $runs[] = $this->run1(self::LOOKUP, exact: "{$i}");
            $runs[] = $this->run1(self::INSERT, exact: "{$i}", rows: 0);
            $runs[] = $this->run1('COMMIT', rows: 0);
        }
        self::assertEquals(
            ['n+1', 'read-before-insert'],
            array_map(static fn (Pattern $one): string => $one->kind->value, PatternFinder::find($runs)),
        );
    }

    /**
     * @return iterable<string, array{list<int>, int, int, int|null}>
     */
    public static function polls(): iterable
    {
        yield 'eight at even intervals without an answer' => [[100_000], 8, 0, 100_000];
        yield 'seven are too few' => [[100_000], 7, 0, null];
        yield 'at the least interval' => [[50_000], 8, 0, 50_000];
        yield 'as fast as it can' => [[49_999], 8, 0, null];
        yield 'uneven, but not very' => [[70_000, 130_000], 9, 0, 100_000];
        yield 'uneven just as much as may be' => [[65_000, 135_000], 9, 0, 100_000];
        yield 'quite uneven' => [[64_000, 136_000], 9, 0, null];
        yield 'one long stall' => [[100_000, 100_000, 100_000, 100_000, 900_000, 100_000, 100_000], 8, 0, 100_000];
        yield 'now and then at any time' => [[9_000, 350_000, 90_000, 20_000, 160_000, 240_000, 50_000], 15, 0, null];
        yield 'three of ten with an answer' => [[100_000], 10, 3, 100_000];
        yield 'four of ten with an answer' => [[100_000], 10, 4, null];
    }

    /**
     * @param  non-empty-list<int>  $gapsUs
     */
    #[DataProvider('polls')]
    public function test_what_counts_as_polling(array $gapsUs, int $times, int $answered, ?int $intervalUs): void
    {
        $runs = [];
        for ($i = 0; $i < $times; $i++) {
            $runs[] = new SessionRun('a', $i, self::id(self::LOOKUP), self::LOOKUP, 'x', $this->nowUs, 10, $i < $answered ? 1 : 0);
            $this->nowUs += $gapsUs[$i % count($gapsUs)];
        }
        $expected = $intervalUs === null
            ? []
            : [new Pattern(PatternKind::Polling, null, self::id(self::LOOKUP), 1, $times, $times * 10, $intervalUs)];
        self::assertEquals($expected, PatternFinder::find($runs));
    }

    /**
     * @return iterable<string, array{string, string, int, int, int, bool}>
     */
    public static function pairs(): iterable
    {
        yield 'ten of ten' => [self::LOOKUP, self::INSERT, 10, 0, 0, true];
        yield 'nine' => [self::LOOKUP, self::INSERT, 9, 0, 0, false];
        yield 'found it' => [self::LOOKUP, self::INSERT, 10, 0, 1, true];
        yield 'found two' => [self::LOOKUP, self::INSERT, 10, 0, 2, false];
        yield 'four of five inserts' => [self::LOOKUP, self::INSERT, 12, 3, 0, true];
        yield 'fewer' => [self::LOOKUP, self::INSERT, 11, 3, 0, false];
        yield 'of another table' => ['SELECT id FROM shed WHERE id = ?', self::INSERT, 10, 0, 0, false];
        yield 'by a join' => ['SELECT ? FROM shed JOIN `field`.`crew` ON ? = ?', self::INSERT, 10, 0, 0, true];
        yield 'ignoring what is there' => [self::LOOKUP, 'INSERT IGNORE INTO `crew` VALUES (?)', 10, 0, 0, true];
        yield 'replacing' => [self::LOOKUP, 'REPLACE INTO crew VALUES (?)', 10, 0, 0, false];
    }

    #[DataProvider('pairs')]
    public function test_what_counts_as_reading_before_inserting(
        string $read,
        string $insert,
        int $pairs,
        int $alone,
        int $rows,
        bool $isFound,
    ): void {
        $runs = [];
        for ($i = 0; $i < $pairs; $i++) {
            $runs[] = $this->run1($read, exact: "{$i}", rows: $rows, durationUs: 30);
            $runs[] = $this->run1($insert, exact: "{$i}", rows: 0);
        }
        for ($i = 0; $i < $alone; $i++) {
            $runs[] = $this->run1($insert, exact: "alone {$i}", rows: 0);
        }
        $expected = new Pattern(PatternKind::ReadBeforeInsert, self::id($insert), self::id($read), $pairs, $pairs, 30 * $pairs);
        self::assertEquals($isFound ? [$expected] : [], PatternFinder::find($runs));
    }

    /** Names of things change nothing, nor do sessions that do something else. */
    public function test_other_sessions_change_nothing(): void
    {
        mt_srand(7);
        $runs = [$this->run1(self::LIST, rows: 9)];
        for ($i = 0; $i < 9; $i++) {
            $runs[] = $this->run1(self::LOOKUP, exact: "{$i}");
            $runs[] = $this->run1('SELECT 1 + ?', exact: 'noise'.mt_rand(), rows: 1, session: 'noise');
            $runs[] = $this->run1('DELETE FROM shed WHERE id = ?', exact: 'noise'.mt_rand(), rows: 0, session: 'noise');
        }
        self::assertCount(1, PatternFinder::find($runs));
        self::assertSame([], PatternFinder::find([]));
    }

    private function run1(
        string $text,
        string $exact = 'x',
        int $rows = 1,
        string $session = 'a',
        int $durationUs = 100,
    ): SessionRun {
        $run = new SessionRun($session, $this->order++, self::id($text), $text, $exact, $this->nowUs, $durationUs, $rows);
        $this->nowUs += $durationUs + 10;

        return $run;
    }

    private static function id(string $text): string
    {
        return hash('xxh128', $text);
    }
}
