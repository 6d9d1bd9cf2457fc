<?php

declare(strict_types=1);

namespace Tests\Core\Usage;

use Fulcrion\Core\Usage\TableShares;
use Fulcrion\Core\Usage\TableTouch;
use Fulcrion\Core\Usage\UnreadTable;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Whose use is whose table's, and which results nobody reads.
 */
final class TableUseTest extends TestCase
{
    private const DAY = 86_400;

    private const TODAY = 20_000 * self::DAY;

    /**
     * @param  non-empty-array<string, int>  $weights
     * @param  array<string, int>  $parts
     */
    #[TestWith([100, ['a' => 1, 'b' => 1], ['a' => 50, 'b' => 50]])]
    #[TestWith([100, ['a' => 3, 'b' => 1], ['a' => 75, 'b' => 25]])]
    #[TestWith([10, ['a' => 1, 'b' => 1, 'c' => 1], ['a' => 3, 'b' => 4, 'c' => 3]])]
    #[TestWith([1, ['a' => 1, 'b' => 1], ['a' => 1, 'b' => 0]])]
    #[TestWith([7, ['a' => 5], ['a' => 7]])]
    #[TestWith([100, ['a' => 0, 'b' => 1], ['a' => 0, 'b' => 100]])]
    #[TestWith([100, ['a' => 0, 'b' => 0], ['a' => 50, 'b' => 50]])]
    #[TestWith([-9, ['a' => 1, 'b' => 2], ['a' => -3, 'b' => -6]])]
    #[TestWith([0, ['a' => 1, 'b' => 2], ['a' => 0, 'b' => 0]])]
    public function test_use_is_shared_by_weight(int $amount, array $weights, array $parts): void
    {
        self::assertSame($parts, TableShares::split($amount, $weights));
    }

    public function test_parts_are_the_whole_and_within_one_of_their_share(): void
    {
        $random = new Randomizer(new Mt19937(20));
        for ($i = 0; $i < 2_000; $i++) {
            $amount = $random->getInt(-1_000, 1_000) * $random->getInt(1, 1_000_000_000);
            $weights = ['t0' => $random->getInt(0, 9)];
            for ($n = $random->getInt(0, 8); $n > 0; $n--) {
                $weights["t{$n}"] = $random->getInt(0, 5) * $random->getInt(1, 1_000_000_000);
            }
            $parts = TableShares::split($amount, $weights);
            self::assertSame($amount, array_sum($parts));
            self::assertSame(array_keys($weights), array_keys($parts));
            $whole = array_sum($weights);
            foreach ($whole > 0 ? $weights : [] as $table => $weight) {
                self::assertEqualsWithDelta($amount * $weight / $whole, $parts[$table], 1.001);
            }
        }
    }

    private static function touch(string $table, string $statement, string $how, int $daysAgo): TableTouch
    {
        return new TableTouch(
            $table,
            $statement,
            str_contains($how, 'r'),
            str_contains($how, 'w'),
            self::TODAY - $daysAgo * self::DAY,
        );
    }

    /**
     * @return iterable<string, array{list<array{string, string, int}>, list<string>|null, int}>
     */
    public static function histories(): iterable
    {
        yield 'not read for two weeks' => [[['load', 'w', 0], ['list', 'r', 14]], ['load'], 14];
        yield 'a day less' => [[['load', 'w', 0], ['list', 'r', 13]], null, 0];
        yield 'not written any more' => [[['load', 'w', 3], ['list', 'r', 20]], null, 0];
        yield 'written the day before yesterday' => [[['load', 'w', 2], ['list', 'r', 20]], ['load'], 20];
        yield 'never read' => [[['load', 'w', 0]], null, 0];
        yield 'never written' => [[['list', 'r', 20]], null, 0];
        yield 'read by another still' => [[['load', 'w', 0], ['list', 'r', 20], ['report', 'r', 1]], null, 0];
        yield 'written from itself' => [[['load', 'rw', 0], ['list', 'r', 20]], ['load'], 20];
        yield 'written from itself only' => [[['load', 'rw', 0]], null, 0];
        yield 'only looked after since' => [[['load', 'w', 0], ['list', 'r', 20], ['statistics', '', 0]], ['load'], 20];
        yield 'written by two, one of which has ended' => [[['load', 'w', 0], ['old', 'w', 9], ['list', 'r', 15]], ['load'], 15];
        yield 'by two' => [[['load', 'w', 0], ['fix', 'w', 1], ['list', 'r', 15], ['more', 'r', 25]], ['load', 'fix'], 15];
    }

    /**
     * @param  list<array{string, string, int}>  $history
     * @param  list<string>|null  $writers
     */
    #[DataProvider('histories')]
    public function test_results_nobody_reads_any_more(array $history, ?array $writers, int $days): void
    {
        $touches = array_map(static fn (array $one): TableTouch => self::touch('trade.night', ...$one), $history);
        $now = self::TODAY + 5_000;
        $unread = UnreadTable::among($touches, $now);
        if ($writers === null) {
            self::assertSame([], $unread);

            return;
        }
        self::assertCount(1, $unread);
        self::assertSame(['trade.night', $writers, $days], [$unread[0]->table, $unread[0]->writers, $unread[0]->days($now)]);
        // The order of what is known changes nothing, and another table neither.
        $other = [self::touch('field.pick', 'load', 'w', 0), self::touch('field.pick', 'list', 'r', 0)];
        $again = UnreadTable::among([...$other, ...array_reverse($touches)], $now);
        self::assertCount(1, $again);
        self::assertEqualsCanonicalizing($writers, $again[0]->writers);
        self::assertSame($days, $again[0]->days($now));
    }
}
