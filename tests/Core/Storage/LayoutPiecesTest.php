<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Parquet\Packing;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\ChunkIndex;
use Fulcrion\Core\Storage\Clustering;
use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\ColumnSpread;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\JoinUse;
use Fulcrion\Core\Storage\LayoutTrial;
use Fulcrion\Core\Storage\Overlap;
use Fulcrion\Core\Storage\Partitioning;
use Fulcrion\Core\Storage\Predicate;
use Fulcrion\Core\Storage\ReadModel;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Storage\Workload;
use InvalidArgumentException;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * The parts a layout is made of, each against a plainer way to the same.
 */
final class LayoutPiecesTest extends TestCase
{
    /**
     * @return iterable<string, array{string|int|null, string, int|float|string|bool|null, string}> span, type, value, partition
     */
    public static function partitions(): iterable
    {
        $day = static fn (string $text): int => intdiv((int) strtotime("{$text} UTC"), 86_400);
        yield 'a day' => ['day', 'date', $day('2026-11-23'), '2026-11-23'];
        yield 'a day before 1970' => ['day', 'date', -1, '1969-12-31'];
        yield 'a week' => ['week', 'date', $day('2026-11-23'), '2026-W48'];
        yield 'the Sunday before' => ['week', 'date', $day('2026-11-22'), '2026-W47'];
        yield 'a week of the year before' => ['week', 'date', $day('2027-01-03'), '2026-W53'];
        yield 'a week of the year after' => ['week', 'date', $day('2024-12-30'), '2025-W01'];
        yield 'a month' => ['month', 'date', $day('2026-02-28'), '2026-02'];
        yield 'March' => ['quarter', 'date', $day('2026-03-31'), '2026-Q1'];
        yield 'April' => ['quarter', 'date', $day('2026-04-01'), '2026-Q2'];
        yield 'December' => ['quarter', 'date', $day('2026-12-31'), '2026-Q4'];
        yield 'a year' => ['year', 'date', $day('2026-01-01'), '2026'];
        yield 'a moment' => ['day', 'timestamp', (int) strtotime('2026-11-23 23:59:59 UTC') * 1_000_000 + 999_999, '2026-11-23'];
        yield 'a moment just before 1970' => ['day', 'timestamp', -1, '1969-12-31'];
        yield 'nothing' => ['month', 'date', null, 'null'];
        yield 'whole numbers' => [10, 'bigint', 19, '10'];
        yield 'the first of a span' => [10, 'bigint', 20, '20'];
        yield 'below 0' => [10, 'bigint', -1, '-10'];
        yield 'a fraction' => [10, 'double', 29.9, '20'];
        yield 'each value' => [null, 'text', 'north', 'north'];
        yield 'each day' => [null, 'date', $day('2026-11-23'), '2026-11-23'];
        yield 'each truth' => [null, 'boolean', true, 'true'];
    }

    #[DataProvider('partitions')]
    public function test_a_value_belongs_to_one_partition(
        string|int|null $span,
        string $type,
        int|float|string|bool|null $value,
        string $is,
    ): void {
        self::assertSame($is, (new Partitioning('c', $span))->name($value, ColumnType::of(TypeKind::from($type))));
    }

    public function test_layouts_are_described(): void
    {
        self::assertSame(
            ['every 10 of c', 'by month of c', 'by value of c'],
            array_map(static fn (string|int|null $span): string => (new Partitioning('c', $span))->describe(), [10, 'month', null]),
        );
        self::assertSame(
            ['by a, b', 'everywhere', 'evenly'],
            array_map(
                static fn (Distribution $one): string => $one->describe(),
                [Distribution::hash('a', 'b'), Distribution::copy(), Distribution::even()],
            ),
        );
        self::assertSame(
            ['none', 'a', 'a, b', 'curve (a, b)', 'z curve (a, b)'],
            array_map(
                static fn (Clustering $one): string => $one->describe(),
                [
                    new Clustering([]),
                    new Clustering(['a']),
                    new Clustering(['a', 'b']),
                    new Clustering(['a', 'b'], Clustering::HILBERT),
                    new Clustering(['a', 'b'], Clustering::Z_ORDER),
                ],
            ),
        );
        $this->expectException(InvalidArgumentException::class);
        Distribution::hash();
    }

    public function test_rows_go_where_the_check_sum_of_their_key_says(): void
    {
        self::assertSame(crc32("7\1") % 5, Distribution::node([7], 5));
        self::assertSame(crc32("a\1\0\x31\1") % 7, Distribution::node(['a', null, true], 7));
        self::assertSame(Distribution::node([0.0], 64), Distribution::node([-0.0], 64));
        self::assertSame(Distribution::node([0], 64), Distribution::node([false], 64));
        self::assertNotSame(Distribution::node(['ab', 'c'], 1 << 30), Distribution::node(['a', 'bc'], 1 << 30), 'values are kept apart');
        self::assertNotSame(Distribution::node([null], 1 << 30), Distribution::node([''], 1 << 30));
        $rows = array_fill(0, 8, 0);
        for ($i = 0; $i < 16_000; $i++) {
            $rows[Distribution::node([$i], 8)]++;
        }
        // Chi square of eight even nodes: 24.3 is passed by chance once in a thousand times.
        self::assertLessThan(24.3, array_sum(array_map(static fn (int $n): float => ($n - 2_000) ** 2 / 2_000, $rows)));
    }

    public function test_the_spread_of_a_column_is_what_placing_each_row_gives(): void
    {
        $random = new Randomizer(new Mt19937(5));
        for ($world = 0; $world < 30; $world++) {
            $nodes = $random->getInt(1, 6);
            $counts = [];
            for ($i = $random->getInt(0, 20); $i > 0; $i--) {
                $counts['k'.$random->getInt(0, 30)] = $random->getInt(1, 90);
            }
            $spread = ColumnSpread::of('c', $counts, static fn (int|string $key): string => (string) $key, $nodes);
            $rows = array_fill(0, $nodes, 0);
            foreach ($counts as $key => $count) {
                for ($i = 0; $i < $count; $i++) {
                    $rows[Distribution::node([$key], $nodes)]++;
                }
            }
            self::assertSame($rows, $spread->nodeRows);
            self::assertSame([array_sum($counts), count($counts)], [$spread->rows, $spread->distinct]);
            self::assertEqualsWithDelta($counts === [] ? 1.0 : max($rows) * $nodes / array_sum($rows), $spread->skew(), 1e-12);
            rsort($counts);
            self::assertSame(array_slice($counts, 0, 5), array_column($spread->heavy, 1));
        }
    }

    public function test_a_sample_is_thinned_evenly(): void
    {
        $sample = new Sample(['a' => range(0, 99), 'b' => range(100, 199)], 1_000);
        self::assertSame(100, $sample->rows());
        self::assertSame($sample, $sample->thinned(100));
        self::assertSame($sample, $sample->thinned(1_000));
        $half = $sample->thinned(50);
        self::assertSame([range(0, 98, 2), range(100, 198, 2), 1_000], [$half->column('a'), $half->column('b'), $half->of]);
        self::assertSame([0, 34, 68], $sample->thinned(3)->column('a'), 'never more than were asked for');
        self::assertSame(1, $sample->thinned(0)->rows());
        self::assertSame(array_fill(0, 100, null), $sample->column('gone'));
        self::assertSame(0, (new Sample([], 5))->rows());
    }

    public function test_a_chunk_is_skipped_only_where_no_row_of_it_can_be_wanted(): void
    {
        $random = new Randomizer(new Mt19937(6));
        $met = 0;
        for ($i = 0; $i < 4_000; $i++) {
            $low = $random->getInt(0, 20);
            $high = $low + $random->getInt(0, 8);
            $some = static fn (): int => $random->getInt(0, 30);
            $predicate = match ($random->getInt(0, 4)) {
                0 => Predicate::range('a', ($from = $some()), $from + $random->getInt(0, 9)),
                1 => Predicate::range('a', null, $some()),
                2 => Predicate::range('a', $some(), null),
                3 => Predicate::oneOf('a', array_map($some, range(0, $random->getInt(0, 4)))),
                default => Predicate::oneOf('a', [$some()]),
            };
            // Any whole number between the bounds may be there; the bounds themselves are.
            $wanted = array_filter(range($low, $high), $predicate->takes(...)) !== [];
            self::assertSame($wanted, $predicate->meets(new ZoneMap($low, $high, 0, 5, 1)), "{$predicate->signature} of {$low} to {$high}");
            $met += $wanted ? 1 : 0;
        }
        self::assertGreaterThan(800, $met);
        self::assertLessThan(3_200, $met);
        $unknown = Predicate::unknown('a');
        self::assertTrue($unknown->meets(new ZoneMap(1, 2, 0, 5, 1)));
        self::assertTrue(Predicate::range('a', 1, 2)->meets(new ZoneMap(null, null, 4, 5, 1)), 'bounds are not kept of all columns');
        self::assertFalse(Predicate::range('a', 1, 2)->meets(new ZoneMap(null, null, 5, 5, 1)), 'nothing but NULL');
        self::assertSame(
            [-1, 1, 0, -1],
            [Predicate::compare('10', '9') <=> 0, Predicate::compare(10, 9), Predicate::compare('a', 'a'), Predicate::compare(1, 1.5)],
            'texts are compared as texts',
        );
        $three = Predicate::oneOf('a', [7, 3, 5]);
        self::assertSame([3, 7, [3, 5, 7]], [$three->low, $three->high, $three->values]);
        self::assertNull(Predicate::oneOf('a', [4])->values);
    }

    public function test_rows_are_ordered_as_by_comparing_each_pair(): void
    {
        $random = new Randomizer(new Mt19937(12));
        for ($world = 0; $world < 60; $world++) {
            $rows = $random->getInt(0, 40);
            $text = $random->getInt(0, 1) === 1;
            $keys = [];
            for ($k = $random->getInt(1, 3); $k > 0; $k--) {
                $keys[] = array_map(
                    static fn (): int|string|null => $random->getInt(0, 9) === 0
                        ? null
                        : ($text ? (string) $random->getInt(0, 30) : $random->getInt(-9, 9)),
                    $rows === 0 ? [] : range(1, $rows),
                );
            }
            $expected = $rows === 0 ? [] : range(0, $rows - 1);
            usort($expected, static function (int $a, int $b) use ($keys): int {
                foreach ($keys as $values) {
                    [$x, $y] = [$values[$a], $values[$b]];
                    if ($x !== $y) {
                        return $x === null ? -1 : ($y === null ? 1 : Predicate::compare($x, $y));
                    }
                }

                return $a <=> $b;
            });
            $names = array_map(static fn (int $i): string => "c{$i}", array_keys($keys));
            self::assertSame($expected, (new Clustering($names))->order($keys));
        }
        self::assertSame([], (new Clustering(['a']))->order([[]]));
        self::assertSame([], (new Clustering(['a', 'b'], Clustering::HILBERT))->order([[], []]));
    }

    public function test_a_curve_keeps_neighbours_in_both_columns_together(): void
    {
        [$a, $b] = [[], []];
        for ($i = 0; $i < 256; $i++) {
            [$a[], $b[]] = [$i % 16, intdiv($i, 16)];
        }
        $spans = [];
        foreach (['' => 0, Clustering::Z_ORDER => 0, Clustering::HILBERT => 0] as $curve => $_) {
            $order = (new Clustering(['a', 'b'], $curve))->order([$a, $b]);
            self::assertEqualsCanonicalizing(range(0, 255), $order);
            // Each 16 rows in a row: how far they reach in both columns, put together.
            $spans[$curve] = 0;
            foreach (array_chunk($order, 16) as $chunk) {
                foreach ([$a, $b] as $values) {
                    $own = array_map(static fn (int $row): int => $values[$row], $chunk);
                    $spans[$curve] += max($own) - min($own);
                }
            }
        }
        self::assertSame(16 * 15, $spans[''], 'one value of the first column, all of the second');
        self::assertSame(16 * 6, $spans[Clustering::Z_ORDER], 'squares of four by four');
        self::assertSame(16 * 6, $spans[Clustering::HILBERT]);
        $hilbert = (new Clustering(['a', 'b'], Clustering::HILBERT))->order([$a, $b]);
        for ($i = 1; $i < 256; $i++) {
            self::assertSame(
                1,
                abs($a[$hilbert[$i]] - $a[$hilbert[$i - 1]]) + abs($b[$hilbert[$i]] - $b[$hilbert[$i - 1]]),
                'each step of the curve goes to a neighbour',
            );
        }
    }

    public function test_a_layout_counts_rows_and_bytes_where_they_lie(): void
    {
        $table = Tables::of(
            [[0, 9, 40, 0, 'p10'], [0, 9, 20, 1, 'p9'], [0, 9, 25, Chunk::EVERY_NODE, 'p9'], [0, 9, 24, 5, 'p10']],
            nodes: 4,
        );
        self::assertSame(109, $table->rows());
        self::assertSame(1_090, $table->bytes());
        self::assertSame([65, 69, 25, 25], $table->rowsByNode(), 'node 5 of four is the second one again');
        self::assertSame([650, 690, 250, 250], $table->bytesByNode());
        self::assertEqualsWithDelta(69 / (184 / 4), $table->skew(), 1e-12);
        self::assertSame(
            ['p9' => ['rows' => 45, 'bytes' => 450, 'chunks' => 2], 'p10' => ['rows' => 64, 'bytes' => 640, 'chunks' => 2]],
            $table->partitions(),
            'p9 comes before p10',
        );
        self::assertSame(0.5, $table->smallShare(), 'two below a quarter of a hundred rows');
        self::assertSame([false, true], [$table->isSmall($table->chunks[2]), $table->isSmall($table->chunks[3])]);
        self::assertSame(1_090, $table->storedBytes());
        self::assertSame(4_360, Tables::of([[0, 9, 109]], distribution: Distribution::copy())->storedBytes());
        self::assertSame(0.0, Tables::of([])->smallShare());
        $files = new TableLayout('s.t', $table->definition, 1, $table->chunks, targetBytes: 1_000);
        self::assertSame([1_000, 400, false], [$files->target(), $files->size($files->chunks[0]), $files->isSmall($files->chunks[0])]);
        self::assertTrue($files->isSmall($files->chunks[3]), '240 bytes of 1,000');
        self::assertFalse($files->isSmall($files->chunks[2]), '250 bytes are a quarter');
        self::assertSame([100, 40], [$table->target(), $table->size($table->chunks[0])]);
        self::assertSame('s."odd name"', (new TableLayout('s.odd name', $table->definition, 1, []))->path());
    }

    public function test_values_that_are_kept_back_leave_no_bounds_and_no_names(): void
    {
        $table = Tables::of([[3, 9, 10, 0, 'north'], [1, 2, 10, 1, 'east']], partitioning: new Partitioning('a', null));
        self::assertSame($table, $table->withheld([]));
        $without = $table->withheld(['a']);
        self::assertSame([null, null, null, null], [
            $without->chunks[0]->zones[0]->min, $without->chunks[0]->zones[0]->max,
            $without->chunks[1]->zones[0]->min, $without->chunks[1]->zones[0]->max,
        ]);
        $kept = $without->chunks[0]->zones[1];
        self::assertSame([0, 9], [$kept->min, $kept->max], 'the other column keeps its own');
        self::assertSame(['partition 2', 'partition 1'], array_map(static fn (Chunk $one): string => $one->partition, $without->chunks));
        self::assertSame([10, 50], [$without->chunks[0]->zones[0]->rowCount, $without->chunks[0]->zones[0]->bytes]);
        $other = $table->withheld(['b'])->chunks[0];
        self::assertSame(['north', 3, null], [$other->partition, $other->zones[0]->min, $other->zones[1]->max]);
    }

    public function test_the_depth_of_spans_is_what_counting_them_at_each_point_gives(): void
    {
        $random = new Randomizer(new Mt19937(31));
        for ($world = 0; $world < 80; $world++) {
            $spans = [];
            for ($i = $random->getInt(1, 25); $i > 0; $i--) {
                $low = $random->getInt(0, 60);
                $spans[] = [$low, $low + $random->getInt(0, 15)];
            }
            $overlap = Overlap::of(Tables::of($spans), 'a');
            $most = $area = $length = 0;
            // Between two whole numbers nothing begins or ends, so the middle stands for all of it.
            for ($at = 0; $at <= 150; $at++) {
                $point = $at / 2;
                $over = count(array_filter($spans, static fn (array $span): bool => $span[0] <= $point && $point <= $span[1]));
                $most = max($most, $over);
                if ($at % 2 === 1) {
                    $area += $over;
                    $length += $over > 0 ? 1 : 0;
                }
            }
            self::assertSame($most, $overlap->maxDepth);
            self::assertEqualsWithDelta($length > 0 ? $area / $length : $overlap->meanDepth, $overlap->meanDepth, 1e-9);
            self::assertSame($most, max(array_column($overlap->spans, 3)) + 1, 'as many lanes as the deepest point needs');
            foreach ($overlap->spans as $i => [$chunk, $from, $to, $lane]) {
                self::assertSame($spans[$chunk], [$from, $to]);
                foreach (array_slice($overlap->spans, $i + 1) as [, $otherFrom, $otherTo, $otherLane]) {
                    self::assertTrue($lane !== $otherLane || $to < $otherFrom || $otherTo < $from, 'no two in one lane touch');
                }
            }
        }
        $nodes = Overlap::of(Tables::of([[0, 9, 10, 0], [5, 9, 10, 1], [7, 8, 10, Chunk::EVERY_NODE]]), 'a', 1);
        self::assertSame([1, 2], array_column($nodes->spans, 0), 'of one node, with what lies on all');
    }

    public function test_a_workload_counts_what_is_done_with_each_column(): void
    {
        $use = new TableUse(
            's.t',
            [Predicate::range('a', 1, 2), Predicate::unknown('a')],
            ['c' => 'upper(c)'],
            [new JoinUse('b', 's.o', 'x')],
            ['b', 'b'],
            ['a', 'b', 'c'],
        );
        $workload = new Workload(
            [
                new StatementUse('1', 10.0, 500.0, 1.0, [$use, new TableUse('s.o', [], [], [], [], ['x'])]),
                new StatementUse('2', 3.0, 900.0, 1.0, [new TableUse('s.t', [], [], [], [], ['c'])]),
                new StatementUse('3', 7.0, 100.0, 1.0, [new TableUse('s.o', [], [], [], [], ['x'])]),
            ],
            1,
            ['SELECT ( FROM s.lost'],
        );
        $columns = $workload->columns('s.t');
        self::assertSame(['c', 'a', 'b'], array_keys($columns), 'most load first');
        self::assertSame(
            ['filter' => 10.0, 'join' => 0.0, 'group' => 0.0, 'read' => 10.0, 'wrapped' => 0.0, 'durationUs' => 500.0],
            $columns['a'],
            'filtered twice in one statement counts once',
        );
        self::assertSame(
            ['filter' => 0.0, 'join' => 10.0, 'group' => 10.0, 'read' => 10.0, 'wrapped' => 0.0, 'durationUs' => 500.0],
            $columns['b'],
        );
        self::assertSame([10.0, 13.0, 1400.0], [$columns['c']['wrapped'], $columns['c']['read'], $columns['c']['durationUs']]);
        self::assertSame(['1', '2'], array_map(static fn (StatementUse $s): string => $s->id, $workload->touching('s.t')->statements));
        self::assertTrue($workload->mayRead('x.lost'));
        self::assertTrue($workload->mayRead('LOST'));
        self::assertFalse($workload->mayRead('s.los'));
        self::assertFalse($workload->mayRead('s.t'));
    }

    public function test_reading_costs_rows_bytes_and_chunks(): void
    {
        $table = Tables::of([[0, 9, 100, 0], [10, 19, 300, 1]], nodes: 2);
        $model = new ReadModel($table, new ClusterRates(2.0, 0.5, 9.0, 40.0));
        $both = new TableUse('s.t', [], [], [], [], ['a', 'b']);
        $one = new TableUse('s.t', [Predicate::range('a', 0, 5)], [], [], [], ['a']);
        self::assertSame([400, 1.5], [$model->rows, $model->skew]);
        self::assertSame(4_000.0, $model->bytes($both, 1.0));
        self::assertSame(500.0, $model->bytes($one, 0.25));
        self::assertSame(0.25, $model->share($one));
        // A quarter of 400 rows by 2 us, 500 bytes by 0.5 us at half the size, three chunks by 40 us.
        self::assertSame(200.0 + 0.5 * 250.0 + 120.0, $model->scanUs($one, 0.25, 3.0, 0.5));
        // Two nodes share it as well as the fuller one lets them: 2 / 1.5.
        self::assertEqualsWithDelta((200.0 + 250.0 + 0.5 * 40.0) / (2 / 1.5), $model->us($one, 0.25), 1e-9);
        self::assertEqualsWithDelta((200.0 + 250.0 + 20.0) / 4, $model->us($one, 0.25, 4.0), 1e-9);
        self::assertEqualsWithDelta(2 * 1_000 * 0.5 / (2 / 1.5), $model->rewriteUs(1_000), 1e-9);
        self::assertSame(
            [4.0, 1.0, 2.0, 4.0],
            [
                ReadModel::spread(Distribution::copy(), 4, 1.0, false),
                ReadModel::spread(Distribution::copy(), 4, 1.0, true),
                ReadModel::spread(Distribution::even(), 4, 2.0, true),
                ReadModel::spread(Distribution::even(), 4, 0.5, true),
            ],
        );
    }

    public function test_a_sample_is_laid_out_as_the_table_would_be(): void
    {
        $sample = new Sample(['a' => range(0, 399), 'b' => array_map(static fn (int $i): int => $i % 4, range(0, 399))], 4_000);
        $definition = Tables::of([[0, 9]], 500)->definition;
        $asked = static fn (Predicate ...$predicates): array => [['weight' => 1.0, 'predicates' => array_values($predicates)]];
        $index = static fn (TableDefinition $laid): ChunkIndex => LayoutTrial::index($sample, $laid, 2, ['a', 'b']);
        // A chunk of 500 of 4,000 rows is 50 of the sample's 400.
        $sorted = $definition->laidOut(Distribution::copy(), clustering: new Clustering(['a']));
        self::assertEqualsWithDelta(1 / 8, LayoutTrial::share($index($sorted), $asked(Predicate::range('a', 0, 49))), 1e-9);
        self::assertEqualsWithDelta(2 / 8, LayoutTrial::share($index($sorted), $asked(Predicate::range('a', 49, 50))), 1e-9);
        self::assertEqualsWithDelta(1.0, LayoutTrial::share($index($sorted), $asked(Predicate::range('b', 3, 3))), 1e-9);
        $cut = $definition->laidOut(Distribution::copy(), new Partitioning('b', null));
        self::assertEqualsWithDelta(1 / 4, LayoutTrial::share($index($cut), $asked(Predicate::range('b', 3, 3))), 1e-9);
        self::assertEqualsWithDelta(0.0, LayoutTrial::share($index($cut), $asked(Predicate::range('b', 9, 9))), 1e-9);
        $weighted = [
            ['weight' => 3.0, 'predicates' => [Predicate::range('a', 0, 49)]],
            ['weight' => 1.0, 'predicates' => []],
        ];
        self::assertEqualsWithDelta((3 / 8 + 1) / 4, LayoutTrial::share($index($sorted), $weighted), 1e-9, 'each by what it read before');
        self::assertSame(1.0, LayoutTrial::share($index($sorted), []), 'of nothing asked nothing is saved');
    }

    public function test_a_definition_comes_back_from_what_is_kept(): void
    {
        $columns = [
            new Column('id', ColumnType::of(TypeKind::Bigint), false),
            new Column('Wage', ColumnType::decimal(8, 2)),
            new Column('odd name', ColumnType::of(TypeKind::Text)),
        ];
        $definitions = [
            new TableDefinition($columns, Distribution::even()),
            new TableDefinition($columns, Distribution::copy(), new Partitioning('id', 10), ['id'], 5_000),
            new TableDefinition(
                $columns,
                Distribution::hash('id', 'Wage'),
                new Partitioning('id', null),
                ['id', 'Wage'],
                1,
                Clustering::HILBERT,
            ),
            (new TableDefinition($columns, Distribution::even()))->packed(Packing::fromArray(
                ['encodings' => ['id' => 'delta'], 'compression' => 'none'],
            )),
        ];
        foreach ($definitions as $definition) {
            $again = TableDefinition::fromArray(json_decode((string) json_encode($definition->toArray()), true));
            self::assertEquals($definition, $again);
        }
        $definition = $definitions[2];
        self::assertSame(['Wage', 'Wage', null], [
            $definition->column('wage')?->name,
            $definition->column('Wage')?->name,
            $definition->column('wages')?->name,
        ]);
        self::assertSame([0, 2, -1], [$definition->index('id'), $definition->index('odd name'), $definition->index('wage')]);
        self::assertNull($definition->laidOut(partitioning: false)->partitioning);
        self::assertSame($definition->partitioning, $definition->laidOut(Distribution::even())->partitioning);
        self::assertSame(['Wage'], $definition->laidOut(clustering: new Clustering(['Wage']))->clustering);
        self::assertSame('', $definition->laidOut(clustering: new Clustering(['Wage']))->curve);
        $small = $definition->laidOut(chunkRows: 7);
        self::assertSame([7, Clustering::HILBERT], [$small->chunkRows, $small->curve]);
        self::assertStringStartsWith(
            "CREATE TABLE s.t (\n    id bigint NOT NULL,\n    Wage decimal(8, 2),\n    \"odd name\" text\n) ",
            $definition->toSql('s.t'),
        );
    }
}
