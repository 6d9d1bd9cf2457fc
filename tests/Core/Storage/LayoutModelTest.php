<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\ChunkIndex;
use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\JoinUse;
use Fulcrion\Core\Storage\LayoutModel;
use Fulcrion\Core\Storage\LayoutTrial;
use Fulcrion\Core\Storage\Partitioning;
use Fulcrion\Core\Storage\Predicate;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Storage\Workload;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * What reading costs on the slowest node. The rates of Tables are 1 us a row, 0.1 us a byte read, 0.1 us a byte sent.
 */
final class LayoutModelTest extends TestCase
{
    public function test_the_fullest_node_is_found_as_by_looking_at_every_chunk(): void
    {
        $random = new Randomizer(new Mt19937(21));
        for ($world = 0; $world < 150; $world++) {
            $nodes = $random->getInt(1, 5);
            $spans = [];
            for ($i = $random->getInt(1, 30); $i > 0; $i--) {
                $low = $random->getInt(0, 90);
                $spans[] = [
                    $low,
                    $low + $random->getInt(0, 20),
                    $random->getInt(1, 50),
                    $random->getInt(0, 5) === 0 ? Chunk::EVERY_NODE : $random->getInt(0, $nodes - 1),
                ];
            }
            $table = Tables::of($spans, nodes: $nodes);
            $index = ChunkIndex::ofLayout($table);
            foreach (
                [
                    [],
                    [Predicate::range('a', 10, 40)],
                    [Predicate::oneOf('a', [3, 50, 77])],
                    [Predicate::range('a', null, 30), Predicate::range('b', 3, null)],
                    [Predicate::unknown('a')],
                ] as $predicates
            ) {
                foreach ([true, false] as $whole) {
                    $bytes = $counts = array_fill(0, $nodes, 0);
                    foreach ($table->chunks as $number => $chunk) {
                        foreach ($predicates as $predicate) {
                            if (! $predicate->meets($chunk->zones[$predicate->column === 'a' ? 0 : 1])) {
                                continue 2;
                            }
                        }
                        foreach (
                            $chunk->node !== Chunk::EVERY_NODE ? [$chunk->node] : ($whole
                                ? range(0, $nodes - 1) : [$number % $nodes]) as $node
                        ) {
                            $bytes[$node] += $chunk->bytes;
                            $counts[$node]++;
                        }
                    }
                    [$share, $chunks] = $index->fullest($predicates, $nodes, $whole);
                    self::assertEqualsWithDelta(max($bytes) / $table->bytes(), $share, 1e-12);
                    self::assertSame(max($counts), $chunks);
                }
            }
        }
    }

    public function test_what_the_slowest_node_reads_is_what_counts(): void
    {
        $sample = new Sample(['a' => range(0, 39), 'b' => array_fill(0, 40, 1)], 40);
        $even = Tables::of([[0, 9, 10, 0], [10, 19, 10, 1], [20, 29, 10, 2], [30, 39, 10, 3]]);
        $heap = Tables::of([[0, 9, 10, 0], [10, 19, 10, 0], [20, 29, 10, 0], [30, 39, 10, 3]]);
        // 10 rows of 10 bytes on each node, a hundred times a week: 100 * (10 + 0.1 * 100).
        self::assertEqualsWithDelta(
            2_000.0,
            (new LayoutModel(Tables::estate($even, [Tables::reads([])]), $even, $sample))->now()->us,
            1e-6,
        );
        self::assertEqualsWithDelta(
            6_000.0,
            (new LayoutModel(Tables::estate($heap, [Tables::reads([])]), $heap, $sample))->now()->us,
            1e-6,
        );
        // One chunk is read by one node, however many there are.
        $one = (new LayoutModel(Tables::estate($even, [Tables::reads([Predicate::range('a', 5, 6)])]), $even, $sample))->now();
        self::assertEqualsWithDelta(2_000.0, $one->us, 1e-6);
        self::assertEqualsWithDelta(100 * 100.0, $one->bytes, 1e-6);
    }

    public function test_opening_chunks_costs(): void
    {
        $table = Tables::of([[0, 9, 10, 0], [0, 9, 10, 0], [0, 9, 10, 1]]);
        $use = Tables::reads([]);
        $cost = static fn (float $usPerChunk): float => (new LayoutModel(
            new Estate(
                ['s.t' => $table],
                new Workload([new StatementUse('x', 1.0, 0.0, 0.0, [$use])]),
                new ClusterRates(1.0, 0.1, 0.1, $usPerChunk),
                0,
            ),
            $table,
            new Sample(['a' => range(0, 29), 'b' => range(0, 29)], 30),
        ))->now()->us;
        self::assertEqualsWithDelta(2 * 7.0, $cost(7.0) - $cost(0.0), 1e-9, 'two of them lie on the node that has most');
    }

    public function test_what_leaves_the_fullest_node_is_what_is_waited_for(): void
    {
        $column = ['a' => range(0, 399), 'b' => array_fill(0, 400, 1)];
        $use = new TableUse('s.t', [], [], [new JoinUse('a', 's.o', 'a')], [], ['a']);
        $theirs = new TableUse('s.o', [], [], [new JoinUse('a', 's.t', 'a')], [], ['a']);
        $cost = static function (TableLayout $table, TableLayout $other) use ($column, $use, $theirs): array {
            $other = new TableLayout('s.o', $other->definition, $other->nodes, $other->chunks);
            $estate = new Estate(
                ['s.t' => $table, 's.o' => $other],
                new Workload([new StatementUse('x', 1.0, 0.0, 0.0, [$use, $theirs])]),
                new ClusterRates(0.0, 0.0, 1.0),
                0,
            );
            $now = (new LayoutModel($estate, $table, new Sample($column, 400)))->now();

            return [$now->us, $now->sentBytes, $now->joins, $now->localJoins];
        };
        $each = static fn (Distribution $distribution, array $rows): TableLayout => Tables::of(
            array_map(static fn (int $count, int $node): array => [0, 399, $count, $node], $rows, array_keys($rows)),
            distribution: $distribution,
        );
        $hash = $each(Distribution::hash('a'), [100, 100, 100, 100]);
        self::assertSame([0.0, 0.0, 1.0, 1.0], $cost($hash, $hash), 'both lie by the key');
        self::assertSame([0.0, 0.0, 1.0, 1.0], $cost($hash, $each(Distribution::copy(), [100, 100, 100, 100])));
        // 400 rows of 8 bytes, of which three in four go elsewhere; from four nodes at once, or all from one.
        self::assertEqualsWithDelta([600.0, 2_400.0, 1.0, 0.0], $cost($hash, $each(Distribution::even(), [100, 100, 100, 100])), 1e-6);
        self::assertEqualsWithDelta([2_400.0, 2_400.0, 1.0, 0.0], $cost($hash, $each(Distribution::even(), [400, 0, 0, 0])), 1e-6);
        // A small one goes to the three other nodes whole.
        self::assertEqualsWithDelta(
            [4 * 8 * 3.0, 4 * 8 * 3.0, 1.0, 0.0],
            $cost($each(Distribution::even(), [100, 100, 100, 100]), $each(Distribution::even(), [4, 0, 0, 0])),
            1e-6,
        );
    }

    public function test_uneven_keys_slow_down_what_comes_after_the_reading(): void
    {
        $values = ['a' => array_map(static fn (int $i): int => $i < 300 ? 7 : $i, range(0, 399)), 'b' => range(0, 399)];
        $even = Tables::of([[0, 399, 100, 0], [0, 399, 100, 1], [0, 399, 100, 2], [0, 399, 100, 3]]);
        $use = new TableUse('s.t', [], [], [], [], ['a']);
        $anew = static fn (float $durationUs, string $column): float => (new LayoutModel(
            new Estate(
                ['s.t' => $even],
                new Workload([new StatementUse('x', 1.0, $durationUs, 0.0, [$use])]),
                new ClusterRates(1.0, 0.0, 0.0),
                0,
            ),
            $even,
            new Sample($values, 400),
        ))->anew($even->definition->laidOut(Distribution::hash($column)))->us;
        // 100 us of the duration is the reading; the rest lasts as much longer as the fullest node has more rows.
        $fullest = $anew(0.0, 'a');
        self::assertGreaterThan(300.0, $fullest);
        self::assertEqualsWithDelta($fullest + 900 * ($fullest / 100 - 1), $anew(1_000.0, 'a'), 1e-6);
        self::assertEqualsWithDelta(100.0, $anew(0.0, 'b'), 25.0);
    }

    public function test_chunks_are_as_small_as_partitions_and_nodes_make_them(): void
    {
        $sample = new Sample(['a' => range(0, 999), 'b' => array_map(static fn (int $i): int => $i % 10, range(0, 999))], 10_000);
        $definition = Tables::of([[0, 9]], 5_000)->definition;
        self::assertSame(2_500, LayoutTrial::chunkRows($sample, $definition, 4), '10,000 rows on four nodes');
        self::assertSame(250, LayoutTrial::chunkRows($sample, $definition->laidOut(partitioning: new Partitioning('b', null)), 4));
        self::assertSame(
            1_000,
            LayoutTrial::chunkRows($sample, $definition->laidOut(Distribution::copy(), new Partitioning('b', null)), 4),
        );
        self::assertSame(5_000, LayoutTrial::chunkRows($sample, $definition->laidOut(Distribution::copy()), 4));
    }

    public function test_predicates_take_the_rows_they_want(): void
    {
        self::assertSame([false, true, true, false], array_map(Predicate::range('a', 3, 5)->takes(...), [2, 3, 5, 6]));
        self::assertSame([true, false], array_map(Predicate::oneOf('a', ['x', 'y'])->takes(...), ['y', 'z']));
        self::assertTrue(Predicate::unknown('a')->takes(1));
    }
}
