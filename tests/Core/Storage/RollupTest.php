<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Storage\Rollups\AggregateReader;
use Fulcrion\Core\Storage\Rollups\AggregateUse;
use Fulcrion\Core\Storage\Rollups\Candidate;
use Fulcrion\Core\Storage\Rollups\Choice;
use Fulcrion\Core\Storage\Rollups\Dimension;
use Fulcrion\Core\Storage\Rollups\Lattice;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Tools\Answers\SmallLattices;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class RollupTest extends TestCase
{
    public function test_the_reader_tells_what_a_grouping_needs_to_know_of_its_table(): void
    {
        foreach (
            [
                "SELECT bay, date_trunc('day', at) AS day, avg(value) FROM s.r WHERE kind = 'warm' AND at >= date '2026-02-01' GROUP BY "
                    .'bay, day' => [
                        'at@day,bay,kind',
                        'avg(value)',
                    ],
                "SELECT b.house, max(r.value) FROM s.r AS r JOIN s.b AS b ON b.id = r.bay WHERE b.house <> 'x' GROUP BY b.house" => [
                    'bay',
                    'max(value)',
                ],
                "SELECT date_trunc('week', at), count(*) FROM s.r WHERE at >= timestamp '2026-02-01 06:00:00' GROUP BY 1" => [
                    'at@hour,at@week',
                    '',
                ],
                "SELECT bay, sum(value) FROM s.r WHERE at BETWEEN date '2026-02-01' AND date '2026-02-02' GROUP BY bay" => [
                    'at@day,bay',
                    'sum(value)',
                ],
                "SELECT bay, sum(value) FROM s.r WHERE at BETWEEN timestamp '2026-02-01 06:10:07' AND timestamp '2026-02-06 00:00:01' "
                    .'GROUP BY bay' => [
                        'at@day,bay',
                        'sum(value)',
                    ],
                'SELECT extract(hour FROM at), sum(value) FILTER (WHERE value > 3) FROM s.r GROUP BY 1' => [
                    'at@hour',
                    'sum(value) FILTER (WHERE value > 3)',
                ],
                'SELECT count(DISTINCT bay) FROM s.r WHERE value > 3 OR kind IS NULL' => ['bay,kind,value', ''],
                'SELECT c.week, sum(value) FROM s.r JOIN s.c ON c.day = cast(at AS date) GROUP BY c.week' => ['at@day', 'sum(value)'],
            ] as $sql => [$dimensions, $measures]
        ) {
            $use = $this->reader()->read($sql, '', 'x', 1.0)[0] ?? self::fail($sql);
            self::assertInstanceOf(AggregateUse::class, $use, $sql);
            $keys = array_map(static fn (Dimension $d): string => $d->key(), $use->dimensions);
            sort($keys);
            self::assertSame([$dimensions, $measures], [implode(',', $keys), implode('; ', $use->measures)], $sql);
        }
        foreach (
            [
                "SELECT bay, sum(value) FROM s.r WHERE at > timestamp '2026-02-01 06:10:07' GROUP BY bay" => 'not on the minute',
                'SELECT r.bay, sum(r.value * b.id) FROM s.r JOIN s.b ON b.id = r.bay GROUP BY r.bay' => 'several tables',
                'SELECT r.bay, sum(r.value) FROM s.r LEFT JOIN s.b ON b.id = r.bay GROUP BY r.bay' => 'otherwise than by inner joins',
                'SELECT bay, sum(value) FROM s.r WHERE bay IN (SELECT id FROM s.b) GROUP BY bay' => 'subquery',
            ] as $sql => $why
        ) {
            $read = $this->reader()->read($sql, '', 'x', 1.0)[0] ?? '';
            self::assertIsString($read);
            self::assertStringContainsString($why, $read, $sql);
        }
        self::assertSame([], $this->reader()->read('SELECT bay FROM s.r', '', 'x', 1.0));
    }

    public function test_finer_nodes_cover_coarser_ones_and_weeks_do_not_make_months(): void
    {
        $lattice = new Lattice(1e6, []);
        $covers = static fn (array $node, array $need): bool => (($lattice->mask(array_values($node)) ?? 0) &
            ($lattice->need(array_values($need)) ?? -1)) === $lattice->need(array_values($need));
        $day = [new Dimension('at', 'day'), new Dimension('bay')];
        self::assertTrue($covers($day, [new Dimension('at', 'month')]));
        self::assertTrue($covers($day, [new Dimension('bay')]));
        self::assertFalse($covers($day, [new Dimension('at', 'hour')]));
        self::assertFalse($covers([new Dimension('at', 'week')], [new Dimension('at', 'month')]));
        $union = Lattice::union([new Dimension('at', 'week')], [new Dimension('at', 'month'), new Dimension('bay')]);
        self::assertSame(
            ['at@day', 'bay'],
            array_map(static fn (Dimension $d): string => $d->key(), $union),
            'what both can be put together from',
        );
    }

    public function test_rows_are_estimated_from_the_sample_where_columns_go_together(): void
    {
        $random = new Randomizer(new Mt19937(3));
        $bay = $house = [];
        for ($i = 0; $i < 4000; $i++) {
            $bay[] = $random->getInt(0, 199);
            // A bay stands in one house only: of 200 x 20 pairs there are 200.
            $house[] = intdiv($bay[$i], 10);
        }
        $lattice = new Lattice(1e6, ['bay' => 200.0, 'house' => 20.0], new Sample(['bay' => $bay, 'house' => $house], 1_000_000));
        self::assertEqualsWithDelta(200, $lattice->rows([new Dimension('bay'), new Dimension('house')]), 20);
        self::assertEqualsWithDelta(20, $lattice->rows([new Dimension('house')]), 2);
        self::assertSame(
            1e6,
            (new Lattice(1e6, ['a' => 5000.0, 'b' => 5000.0]))->rows([new Dimension('a'), new Dimension('b')]),
            'never more than the table',
        );
    }

    public function test_the_choice_is_worked_by_hand(): void
    {
        // Two uses of 100, ten and one executions a week; a small rollup for the first, a large one for both.
        $small = new Candidate([new Dimension('a')], 10, 10, [0 => 10.0]);
        $large = new Candidate([new Dimension('a'), new Dimension('b')], 50, 50, [0 => 50.0, 1 => 50.0]);
        $both = Choice::of([100.0, 100.0], [10.0, 1.0], [$small, $large], 60);
        self::assertSame([$small, $large], $both->chosen);
        self::assertSame([900.0, 50.0], $both->gains, 'the second only helps the other use');
        self::assertSame([0 => 0, 1 => 1], $both->answers);
        self::assertSame([$small], Choice::of([100.0, 100.0], [10.0, 1.0], [$small, $large], 55)->chosen);
        self::assertSame([], Choice::of([100.0, 100.0], [10.0, 1.0], [$small, $large], 5)->chosen);
        // Beside one that answers both better, the first is of no use any more and goes.
        $better = new Candidate([new Dimension('b')], 40, 40, [0 => 5.0, 1 => 5.0]);
        self::assertSame([$better], Choice::of([100.0, 100.0], [10.0, 1.0], [$small, $better], 60)->chosen);
        $dear = new Candidate([new Dimension('c')], 1, 1, [0 => 1.0], 2000.0);
        self::assertSame([], Choice::of([100.0], [10.0], [$dear], 60)->chosen, 'keeping it costs more than it saves');
    }

    public function test_the_choice_is_near_the_best_of_all_sets(): void
    {
        $sum = $count = 0;
        foreach (SmallLattices::all(40, 3) as [$base, $weights, $candidates, $budget]) {
            $choice = Choice::of($base, $weights, $candidates, $budget);
            $best = SmallLattices::best($base, $weights, $candidates, $budget);
            self::assertLessThanOrEqual($budget + 1e-6, $choice->bytes());
            self::assertLessThanOrEqual($best + 1e-6, $choice->savedUs());
            if ($best > 0) {
                self::assertGreaterThan(0.5 * $best, $choice->savedUs());
                $sum += $choice->savedUs() / $best;
                $count++;
            }
        }
        self::assertGreaterThan(0.9, $sum / max(1, $count));
    }

    private function reader(): AggregateReader
    {
        $type = ColumnType::of(...);

        return new AggregateReader([
            's.r' => [
                'bay' => $type(TypeKind::Bigint),
                'kind' => $type(TypeKind::Text),
                'at' => $type(TypeKind::Timestamp),
                'value' => $type(TypeKind::Double),
            ],
            's.b' => ['id' => $type(TypeKind::Bigint), 'house' => $type(TypeKind::Text)],
            's.c' => ['day' => $type(TypeKind::Date), 'week' => $type(TypeKind::Bigint)],
        ]);
    }
}
