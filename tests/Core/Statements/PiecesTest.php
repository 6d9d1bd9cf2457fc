<?php

declare(strict_types=1);

namespace Tests\Core\Statements;

use Fulcrion\Core\Statements\Comparison;
use Fulcrion\Core\Statements\Concentration;
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Statements\LoadAggregate;
use Fulcrion\Core\Statements\LoadAggregator;
use Fulcrion\Core\Statements\StatementChange;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Figures of statements, worked by hand.
 */
final class PiecesTest extends TestCase
{
    /**
     * @return iterable<string, array{list<int>, float, int, float}> parts, bulk, how few reach it, their share
     */
    public static function bulks(): iterable
    {
        yield 'one of all' => [[1, 1, 1, 97], 0.8, 1, 0.97];
        yield 'two just reach it' => [[50, 30, 20], 0.8, 2, 0.8];
        yield 'two do not' => [[50, 29, 21], 0.8, 3, 1.0];
        yield 'all of them' => [[1, 1, 1], 1.0, 3, 1.0];
        yield 'any one' => [[5, 9], 0.0, 1, 9 / 14];
        yield 'nothing' => [[], 0.8, 0, 0.0];
        yield 'nothing in them' => [[0, 0], 0.8, 0, 0.0];
    }

    /**
     * @param  list<int>  $parts
     */
    #[DataProvider('bulks')]
    public function test_few_make_the_bulk(array $parts, float $bulk, int $few, float $share): void
    {
        $found = Concentration::of($parts, $bulk);
        self::assertSame($few, $found['few']);
        self::assertEqualsWithDelta($share, $found['share'], 1e-12);
    }

    public function test_a_change_has_the_part_of_its_runs_and_the_part_of_their_length(): void
    {
        // 60 runs of 2 s in 60 s, then 240 of 3 s in 120 s: one a second by 2 s, two a second by 3 s.
        $change = self::change([60, 120_000_000, 120_000_000], [240, 720_000_000, 720_000_000]);
        self::assertEqualsWithDelta([2.0, 6.0, 2.0e6, 3.0e6], [
            $change->loadBefore, $change->loadAfter, $change->meanUsBefore, $change->meanUsAfter,
        ], 1e-9);
        self::assertEqualsWithDelta(2.5, $change->byCount, 1e-9, 'one a second more, by the mean of both lengths');
        self::assertEqualsWithDelta(1.5, $change->byLatency, 1e-9, 'a second longer, by the mean of both rates');
        self::assertEqualsWithDelta(0.0, $change->carriedOver(), 1e-9);
        self::assertSame([60, 240, 'rose'], [$change->executionsBefore, $change->executionsAfter, $change->movement()]);
        // Two seconds of the load are of runs that began before the window.
        $over = self::change([60, 120_000_000, 120_000_000], [240, 720_000_000, 960_000_000]);
        self::assertEqualsWithDelta(2.0, $over->carriedOver(), 1e-9);
    }

    /**
     * @return iterable<string, array{array{int, int, int}, array{int, int, int}, string}>
     */
    public static function movements(): iterable
    {
        yield 'came' => [[0, 0, 0], [5, 50, 50], 'came'];
        yield 'went' => [[5, 50, 50], [0, 0, 0], 'went'];
        yield 'began before and ends in it' => [[0, 0, 30], [5, 50, 50], 'fell'];
        yield 'runs on' => [[5, 50, 50], [0, 0, 300], 'rose'];
        yield 'rose' => [[5, 50, 50], [10, 110, 110], 'rose'];
        yield 'fell' => [[5, 50, 50], [10, 90, 90], 'fell'];
        yield 'as before' => [[5, 50, 50], [10, 100, 100], 'same'];
    }

    /**
     * @param  array{int, int, int}  $before executions, time, load in 60 s
     * @param  array{int, int, int}  $after in 120 s
     */
    #[DataProvider('movements')]
    public function test_a_statement_comes_goes_rises_or_falls(array $before, array $after, string $movement): void
    {
        self::assertSame($movement, self::change($before, $after)->movement());
    }

    public function test_what_changed_most_comes_first_and_names_part_the_rest(): void
    {
        $sums = static fn (int $us): array => ['executions' => 1, 'durationUs' => $us, 'loadUs' => $us];
        $changes = Comparison::of(['b' => $sums(100), 'a' => $sums(100), 'c' => $sums(900)], 1, ['c' => $sums(850), 'd' => $sums(400)], 1);
        self::assertSame(['d', 'a', 'b', 'c'], array_map(static fn (StatementChange $one): int|string => $one->statement, $changes));
        self::assertSame([], Comparison::of([], 1, [], 1));
    }

    public function test_tallies_of_longer_intervals_are_those_of_the_shorter_ones_together(): void
    {
        $random = new Randomizer(new Mt19937(6));
        for ($world = 0; $world < 40; $world++) {
            $buckets = $expected = [];
            for ($i = $random->getInt(1, 40); $i > 0; $i--) {
                $at = 300 * $random->getInt(0, 600);
                $statement = 's'.$random->getInt(0, 2);
                $origin = 'o'.$random->getInt(0, 1);
                $us = $random->getInt(1, 5_000_000);
                $one = $buckets[$at][$statement][$origin] ??= new LoadAggregate();
                $one->sums['executions']++;
                $one->sums['duration_us'] += $us;
                $one->passTime($us, 1, 2, 3);
                $one->minUs = min($one->minUs, $us);
                $one->maxUs = max($one->maxUs, $us);
                $one->facts |= 1 << $random->getInt(0, 3);
                $bin = LatencySketch::bin($us);
                $one->bins[$bin] = ($one->bins[$bin] ?? 0) + 1;
                $expected[$at - $at % 3_600][$statement][$origin][] = $us;
            }
            $before = serialize($buckets);
            $hours = LoadAggregator::coarsen($buckets, 3_600);
            self::assertSame($before, serialize($buckets), 'the shorter ones stay as they are');
            self::assertEqualsCanonicalizing(array_keys($expected), array_keys($hours));
            foreach ($expected as $at => $statements) {
                foreach ($statements as $statement => $origins) {
                    foreach ($origins as $origin => $times) {
                        $hour = $hours[$at][$statement][$origin];
                        self::assertSame([count($times), array_sum($times), array_sum($times), 2 * count($times)], [
                            $hour->sums['executions'], $hour->sums['duration_us'], $hour->sums['load_us'], $hour->sums['queued_us'],
                        ]);
                        self::assertSame([min($times), max($times)], [$hour->minUs, $hour->maxUs]);
                        self::assertSame(
                            LatencySketch::of($times)->toBinary(),
                            LatencySketch::ofCounts($hour->bins)->toBinary(),
                        );
                    }
                }
            }
            $days = LoadAggregator::coarsen($hours, 86_400);
            self::assertEquals($days, LoadAggregator::coarsen($buckets, 86_400), 'over hours or at once');
        }
    }

    public function test_classes_of_a_figure_hold_all_that_was_counted(): void
    {
        $sketch = LatencySketch::of([0, 1, 2, 3, 4, 7, 8, 100, 1_000_000]);
        $classes = $sketch->classes();
        self::assertSame(9, array_sum(array_column($classes, 'count')));
        self::assertSame(['fromUs' => 1, 'toUs' => 2, 'count' => 2], $classes[0], '0 stands with 1');
        self::assertSame([[2, 4, 2], [4, 8, 2], [8, 16, 1], [16, 32, 0]], array_map(array_values(...), array_slice($classes, 1, 4)));
        for ($i = 1; $i < count($classes); $i++) {
            self::assertSame($classes[$i - 1]['toUs'], $classes[$i]['fromUs'], 'each begins where the one before ends');
        }
        self::assertSame(2 ** 20, $classes[count($classes) - 1]['toUs']);
        self::assertCount(7, $sketch->classes(10.0));
        self::assertSame([], LatencySketch::empty()->classes());
        self::assertSame(9, $sketch->count());
        self::assertNull(LatencySketch::empty()->quantile(0.5));
        self::assertSame([0, 1_000_000], [$sketch->quantile(0.0), $sketch->quantile(1.0, 1_000_000)], 'none above the longest');
    }

    /**
     * @param  array{int, int, int}  $before
     * @param  array{int, int, int}  $after
     */
    private static function change(array $before, array $after): StatementChange
    {
        $sums = static fn (array $of): array => ['executions' => (int) $of[0], 'durationUs' => (int) $of[1], 'loadUs' => (int) $of[2]];

        return Comparison::of(['s' => $sums($before)], 60, ['s' => $sums($after)], 120)[0];
    }
}
