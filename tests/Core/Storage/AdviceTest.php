<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\Clustering;
use Fulcrion\Core\Storage\ClusteringAdvisor;
use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\ColumnSpread;
use Fulcrion\Core\Storage\Compaction;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\DistributionAdvisor;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\FullAdvice;
use Fulcrion\Core\Storage\JoinUse;
use Fulcrion\Core\Storage\PartitionAdvisor;
use Fulcrion\Core\Storage\Partitioning;
use Fulcrion\Core\Storage\Predicate;
use Fulcrion\Core\Storage\Reordering;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Storage\Workload;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class AdviceTest extends TestCase
{
    public function test_compaction_fills_bins_within_node_and_partition_and_touches_nothing_else(): void
    {
        $plan = Compaction::of(
            Tables::of([
                [0, 9, 20],
                [10, 19, 20],
                [20, 29, 20],
                [30, 39, 90],
                [0, 9, 20, 1],
                [5, 6, 10, 0, 'p'],
                [7, 8, 10, 0, 'p'],
                [0, 99, 350],
            ]),
        );
        // 20 + 20 + 20 on node 0, the two of partition p, and the huge one by itself; one alone on node 1 stays.
        self::assertSame([[0, 1, 2], [5, 6], [7]], $plan->bins);
        self::assertSame([6, 6], [$plan->chunksRead, $plan->chunksAfter], 'three become one, two one, one four');
        self::assertSame(4300, $plan->bytesRewritten);

        $random = new Randomizer(new Mt19937(5));
        for ($world = 0; $world < 50; $world++) {
            $spans = [];
            for ($i = 0; $i < 60; $i++) {
                $spans[] = [$i, $i + 3, $random->getInt(1, 130), $random->getInt(0, 3), 'p'.$random->getInt(0, 1)];
            }
            $table = Tables::of($spans, 100, ['a']);
            $plan = Compaction::of($table);
            $seen = array_merge(...$plan->bins);
            self::assertSame(count($seen), count(array_unique($seen)));
            foreach ($plan->bins as $bin) {
                self::assertLessThanOrEqual(100, array_sum(array_map(static fn (int $i): int => $table->chunks[$i]->rows, $bin)));
                self::assertCount(
                    1,
                    array_unique(array_map(static fn (int $i): string => $table->chunks[$i]->node.$table->chunks[$i]->partition, $bin)),
                );
            }
        }
    }

    public function test_only_chunks_out_of_order_are_sorted_again(): void
    {
        $order = Reordering::of(Tables::of([[0, 10], [10, 20], [20, 30], [25, 40], [38, 39], [41, 50], [0, 99, 10, 1]], 100, ['a']));
        self::assertSame([[2, 3, 4]], $order->groups, 'sharing a bound is in order');
        self::assertSame([], Reordering::of(Tables::of([[0, 10], [5, 20]]))->groups, 'without a key there is no order');
    }

    public function test_the_order_that_lets_most_be_skipped_is_found_by_measuring(): void
    {
        [$table, $sample] = $this->shuffled();
        $estate = Tables::estate($table, [Tables::reads([Predicate::range('b', 3, 3)]), Tables::reads([Predicate::range('b', 7, 7)])]);
        $tried = (new ClusteringAdvisor($estate))->tried($table, $sample);
        self::assertSame(['b'], $tried[0]['clustering']->columns);
        self::assertLessThan(0.25, $tried[0]['share'], 'a tenth of the rows, and chunks at the borders');
        $advice = (new ClusteringAdvisor($estate))->advise($table, $sample);
        self::assertTrue($advice?->worthIt);
        self::assertGreaterThan(0, $advice->savedBytes);
        self::assertLessThan(0.4, (new ClusteringAdvisor($estate))->ratio($table, $sample));

        $both = Tables::estate($table, [Tables::reads([Predicate::range('a', 100, 150)]), Tables::reads([Predicate::range('b', 5, 5)])]);
        $curve = (new ClusteringAdvisor($both))->tried($table, $sample);
        $share = static fn (Clustering $c): float => array_values(
            array_filter($curve, static fn (array $one): bool => $one['clustering']->describe() === $c->describe()),
        )[0]['share'];
        self::assertLessThan(
            $share(new Clustering(['a'])),
            $share(new Clustering(['a', 'b'], Clustering::HILBERT)),
            'a curve serves both filters',
        );
    }

    public function test_partitions_are_advised_where_filters_prune_and_taken_away_where_they_are_too_many(): void
    {
        [$table, $sample] = $this->shuffled();
        $tried = (new PartitionAdvisor(Tables::estate($table, [Tables::reads([Predicate::range('b', 3, 3)])])))->tried($table, $sample);
        self::assertSame('by value of b', $tried[0]['partitioning']?->describe());
        self::assertEqualsWithDelta(0.1, $tried[0]['share'], 0.02);
        self::assertSame(10, $tried[0]['partitions']);

        $spans = [];
        for ($i = 0; $i < 200; $i++) {
            $spans[] = [$i, $i, 5, 0, (string) $i];
        }
        $split = Tables::of($spans, 100, [], null, new Partitioning('a', null));
        $advice = (new PartitionAdvisor(Tables::estate($split, [Tables::reads([])])))->advise(
            $split,
            new Sample(['a' => range(0, 199), 'b' => array_fill(0, 200, 1)], 1000),
        );
        self::assertTrue($advice?->worthIt);
        self::assertNull($advice->definition?->partitioning);
    }

    public function test_a_distribution_is_judged_by_skew_and_by_joins_that_become_local(): void
    {
        $column = static fn (string $name): Column => new Column($name, ColumnType::of(TypeKind::Bigint));
        $zone = new ZoneMap(0, 9999, 0, 1000, 8000);
        $chunks = static fn (array $rows): array => array_map(
            static fn (int $count, int $node): Chunk => new Chunk("c{$node}", $node, '', $count, $count * 16, [$zone, $zone]),
            $rows,
            array_keys($rows),
        );
        $skewed = new TableLayout(
            's.sale',
            new TableDefinition([$column('kind'), $column('buyer')], Distribution::hash('kind')),
            4,
            $chunks([7000, 1000, 1000, 1000]),
            1,
        );
        $buyers = new TableLayout(
            's.buyer',
            new TableDefinition([$column('buyer'), $column('town')], Distribution::hash('buyer')),
            4,
            $chunks([2500, 2500, 2500, 2500]),
            1,
        );
        $use = new TableUse('s.sale', [], [], [new JoinUse('buyer', 's.buyer', 'buyer')], [], ['kind', 'buyer']);
        $other = new TableUse('s.buyer', [], [], [new JoinUse('buyer', 's.sale', 'buyer')], [], ['buyer']);
        $estate = new Estate(
            ['s.sale' => $skewed, 's.buyer' => $buyers],
            new Workload([new StatementUse(str_repeat('0', 32), 10.0, 1.0, 1.0, [$use, $other])]),
            new ClusterRates(1.0, 0.1, 1.0),
            0,
        );
        self::assertSame(2.8, $skewed->skew());
        $sample = new Sample(
            [
                'kind' => array_map(static fn (int $i): int => max(0, ($i % 10) - 6), range(0, 1999)),
                'buyer' => array_map(static fn (int $i): int => ($i * 7) % 5000, range(0, 1999)),
            ],
            10_000,
        );
        $even = new ColumnSpread('buyer', 10_000, 5000, [[1, 3]], [2500, 2500, 2500, 2500]);
        $tried = (new DistributionAdvisor($estate))->tried(
            $skewed,
            [$even, new ColumnSpread('kind', 10_000, 3, [[1, 7000]], [7000, 1000, 1000, 1000])],
            $sample,
        );
        self::assertSame('by buyer', $tried[0]['distribution']->describe());
        self::assertSame(0.0, $tried[0]['sentBytes'], 'both sides lie by the buyer');
        $spread = array_combine(array_map(static fn (array $one): string => $one['distribution']->describe(), $tried), $tried);
        self::assertGreaterThan(0.0, $spread['evenly']['sentBytes']);
        self::assertSame(4 * $skewed->bytes(), $spread['everywhere']['storedBytes']);
        self::assertTrue((new DistributionAdvisor($estate))->advise($skewed, [$even], $sample)?->worthIt);

        $counts = ['red' => 70, 'blue' => 20, 'green' => 10];
        $counted = ColumnSpread::of('colour', $counts, static fn (int|string $key): string => (string) $key, 4);
        self::assertSame([['red', 70], ['blue', 20], ['green', 10]], $counted->heavy);
        self::assertSame(100, array_sum($counted->nodeRows));
        self::assertGreaterThanOrEqual(2.8, $counted->skew());
    }

    public function test_partitions_that_skip_more_than_they_cost_are_kept_though_they_are_small(): void
    {
        $spans = [];
        for ($i = 0; $i < 100; $i++) {
            $spans[] = [$i, $i, 20, $i % 4, (string) $i];
        }
        $table = Tables::of($spans, 100, [], null, new Partitioning('a', null));
        $sample = new Sample(['a' => range(0, 99), 'b' => array_fill(0, 100, 1)], 2000);
        $advice = (new PartitionAdvisor(Tables::estate($table, [Tables::reads([Predicate::range('a', 5, 6)])])))->advise($table, $sample);
        self::assertFalse($advice?->worthIt);
        self::assertSame('Keep the partitions as they are', $advice->advice);
        self::assertSame('by value of a', $advice->definition?->partitioning?->describe());
        self::assertStringContainsString('too many for the rows', $advice->figures[0][1], 'it is said all the same');
    }

    public function test_nothing_is_worth_it_that_the_model_does_not_find_faster(): void
    {
        $random = new Randomizer(new Mt19937(8));
        $worth = 0;
        for ($world = 0; $world < 60; $world++) {
            [$spans, $values] = [[], ['a' => [], 'b' => []]];
            $parted = $random->getInt(0, 1) === 1;
            for ($i = 0, $chunks = $random->getInt(8, 120); $i < $chunks; $i++) {
                $low = $random->getInt(0, 1) === 0 ? $i * 8 : $random->getInt(0, 900);
                $rows = $random->getInt(2, 100);
                $spans[] = [
                    $low,
                    $low + $random->getInt(0, 300),
                    $rows,
                    $random->getInt(0, $world % 4),
                    $parted ? (string) intdiv($low, 50) : '',
                ];
                for ($row = 0; $row < $rows; $row++) {
                    $values['a'][] = $low + $random->getInt(0, 20);
                    $values['b'][] = $random->getInt(0, 9);
                }
            }
            $table = Tables::of($spans, 100, $random->getInt(0, 1) === 1 ? ['a'] : [], null, $parted ? new Partitioning('a', null) : null);
            $uses = [];
            for ($i = $random->getInt(1, 4); $i > 0; $i--) {
                $from = $random->getInt(0, 900);
                $uses[] = Tables::reads(
                    [[], [Predicate::range('a', $from, $from + $random->getInt(0, 400))], [Predicate::range('b', 3, 3)]][
                        $random->getInt(0, 2)
                    ],
                );
            }
            $spread = new ColumnSpread('b', count($values['b']), 10, [[1, 5]], [10, 10, 10, 10]);
            foreach (
                (new FullAdvice(Tables::estate($table, $uses)))->of($table, new Sample($values, $table->rows()), [$spread]) as $advice
            ) {
                $worth += $advice->worthIt ? 1 : 0;
                self::assertTrue(
                    ! $advice->worthIt || $advice->kind === 'statistics' || $advice->savedUs > 0,
                    "world {$world}: {$advice->advice} saves {$advice->savedUs}",
                );
            }
        }
        self::assertGreaterThan(40, $worth, 'much is still advised');
    }

    public function test_rows_that_were_dealt_unevenly_are_dealt_anew(): void
    {
        $sample = new Sample(['a' => range(0, 899), 'b' => array_fill(0, 900, 1)], 3600);
        $lopsided = Tables::of(array_map(static fn (int $i): array => [$i, $i + 50, 90, $i < 30 ? 0 : $i % 4], range(0, 39)));
        $advice = (new DistributionAdvisor(Tables::estate($lopsided, [Tables::reads([])])))->advise($lopsided, [], $sample);
        self::assertTrue($advice?->worthIt);
        self::assertSame('Spread the rows of s.t evenly again', $advice->advice);
        self::assertSame('evenly', $advice->definition?->distribution->describe());
        $even = Tables::of(array_map(static fn (int $i): array => [$i, $i + 50, 90, $i % 4], range(0, 39)));
        self::assertFalse((new DistributionAdvisor(Tables::estate($even, [Tables::reads([])])))->advise($even, [], $sample)?->worthIt);
    }

    /**
     * @return array{TableLayout, Sample} rows in no order: a is any of 1000 values, b of ten
     */
    private function shuffled(): array
    {
        $random = new Randomizer(new Mt19937(11));
        $sample = ['a' => [], 'b' => []];
        for ($i = 0; $i < 4000; $i++) {
            $sample['a'][] = $random->getInt(0, 999);
            $sample['b'][] = $random->getInt(0, 9);
        }

        return [Tables::of(array_fill(0, 200, [0, 999, 400]), 2000, [], null, null, 1), new Sample($sample, 80_000)];
    }
}
