<?php

declare(strict_types=1);

namespace Tests\Core\Plans;

use Fulcrion\Core\Plans\NodeShare;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanRules;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepCost;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Plans\StepReads;
use Fulcrion\Core\Plans\StepRows;
use Fulcrion\Core\Plans\TableFacts;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * Each rule just below and just at its limit, with what it says.
 */
final class PlanRuleLimitsTest extends TestCase
{
    /**
     * @return iterable<string, array{string, bool, PlanStep}> rule, whether it applies
     */
    public static function limits(): iterable
    {
        $both = static function (string $rule, string $limit, callable $make, mixed $within, mixed $beyond): iterable {
            yield "{$rule}, {$limit}: not yet" => [$rule, false, $make($within)];
            yield "{$rule}, {$limit}: now" => [$rule, true, $make($beyond)];
        };

        // A read that keeps a twentieth of ten thousand rows or more, of eight chunks or more, of which it reads four fifths.
        $read = self::read(...);
        yield from $both('full-read', 'kept', static fn (float $kept): PlanStep => $read(kept: $kept), 5001.0, 5000.0);
        yield from $both('full-read', 'rows', static fn (float $rows): PlanStep => $read(rows: $rows, kept: 10.0), 9999.0, 10_000.0);
        yield from $both('full-read', 'chunks', static fn (int $chunks): PlanStep => $read(chunks: $chunks), 7, 8);
        yield from $both('full-read', 'bytes', static fn (int $bytes): PlanStep => $read(bytes: $bytes), 79_999, 80_000);
        $on = static fn (bool $filtered): PlanStep => $read(conditions: $filtered ? ['bay = 4'] : []);
        yield from $both('full-read', 'conditions', $on, false, true);
        yield from $both('full-read', 'table', static fn (bool $table): PlanStep => $read(table: $table), false, true);
        yield from $both('full-read', 'ran', static fn (?float $kept): PlanStep => $read(kept: $kept), null, 10.0);
        yield 'full-read of what has no chunks' => ['full-read', true, $read(chunks: null)];
        yield 'full-read of no scan' => ['full-read', false, $read(kind: StepKind::Filter)];

        // Two billion modelled bytes to every node; two hundred million between nodes for a join.
        $sent = static fn (StepKind $kind, ?int $bytes): PlanStep => new PlanStep(
            $kind,
            'by bay',
            rows: new StepRows(actual: 5.0, in: 5.0),
            cost: new StepCost(80, $bytes),
            inputs: [self::read(kept: 90_000.0)],
        );
        yield from $both(
            'large-broadcast',
            'bytes',
            static fn (?int $bytes): PlanStep => $sent(StepKind::Broadcast, $bytes),
            1_999_999,
            2_000_000,
        );
        yield 'large-broadcast of what is not known' => ['large-broadcast', false, $sent(StepKind::Broadcast, null)];
        yield 'large-broadcast of another exchange' => ['large-broadcast', false, $sent(StepKind::Repartition, 9_000_000)];
        $join = static fn (PlanStep ...$inputs): PlanStep => new PlanStep(
            StepKind::HashJoin,
            'a = b',
            rows: new StepRows(actual: 90_000.0),
            inputs: array_values($inputs),
        );
        yield from $both(
            'avoidable-repartition',
            'bytes',
            static fn (int $bytes): PlanStep => $join(self::read(kept: 90_000.0), $sent(StepKind::Repartition, $bytes)),
            199_999,
            200_000,
        );
        $computed = static fn (StepKind $kind): PlanStep => $join(
            self::read(kept: 90_000.0),
            new PlanStep(
                StepKind::Repartition,
                'by bay',
                cost: new StepCost(80, 900_000),
                inputs: [new PlanStep($kind, inputs: [new PlanStep(StepKind::Filter, inputs: [self::read(kept: 90_000.0)])])],
            ),
        );
        yield 'avoidable-repartition of what is computed' => ['avoidable-repartition', true, $computed(StepKind::Compute)];
        yield 'avoidable-repartition of groups' => ['avoidable-repartition', false, $computed(StepKind::Aggregate)];
        yield 'avoidable-repartition of no join' => ['avoidable-repartition', false, $sent(StepKind::Repartition, 900_000)];

        // Ten times the larger input, from ten thousand rows on.
        $exploded = static fn (float $out, float ...$in): PlanStep => new PlanStep(
            StepKind::HashJoin,
            'a = b',
            rows: new StepRows(actual: $out),
            inputs: array_map(
                static fn (float $rows): PlanStep => new PlanStep(StepKind::Values, rows: new StepRows(actual: $rows)),
                array_values($in),
            ),
        );
        yield from $both(
            'exploding-join',
            'factor',
            static fn (float $out): PlanStep => $exploded($out, 3000.0, 4000.0),
            39_999.0,
            40_000.0,
        );
        yield from $both('exploding-join', 'rows', static fn (float $out): PlanStep => $exploded($out, 1.0, 1.0), 9999.0, 10_000.0);
        yield 'exploding-join of one input' => ['exploding-join', false, $exploded(90_000.0, 1.0)];
        yield 'exploding-join of inputs without rows' => ['exploding-join', true, $exploded(10_000.0, 0.0, 0.0)];
        $crossed = static fn (float $few): PlanStep => new PlanStep(
            StepKind::CrossJoin,
            rows: new StepRows(actual: 20_000.0),
            inputs: array_map(
                static fn (float $rows): PlanStep => new PlanStep(StepKind::Values, rows: new StepRows(actual: $rows)),
                [20_000.0, $few],
            ),
        );
        yield from $both('cross-join', 'one row', $crossed, 1.0, 2.0);

        // Fifty runs of a subquery.
        yield from $both(
            'repeated-subquery',
            'runs',
            static fn (int $loops): PlanStep => new PlanStep(StepKind::Subquery, rows: new StepRows(loops: $loops)),
            49,
            50,
        );

        // A hundredth of ten thousand rows.
        $sorted = static fn (float $kept, float $rows, StepKind $above = StepKind::Limit, StepKind $kind = StepKind::Sort): PlanStep =>
            new PlanStep(
                $above,
                rows: new StepRows(actual: $kept),
                inputs: [new PlanStep(
                    StepKind::Compute,
                    inputs: [new PlanStep(StepKind::Gather, inputs: [new PlanStep($kind, rows: new StepRows(actual: $rows))])],
                )],
            );
        yield from $both('sort-for-few', 'kept', static fn (float $kept): PlanStep => $sorted($kept, 10_000.0), 101.0, 100.0);
        yield from $both('sort-for-few', 'rows', static fn (float $rows): PlanStep => $sorted(1.0, $rows), 9999.0, 10_000.0);
        yield 'sort-for-few by a window' => ['sort-for-few', true, $sorted(1.0, 10_000.0, StepKind::Filter, StepKind::Window)];
        yield 'sort-for-few of what sorts nothing' => ['sort-for-few', false, $sorted(1.0, 10_000.0, kind: StepKind::Aggregate)];
        yield 'sort-for-few under a join' => ['sort-for-few', false, $sorted(1.0, 10_000.0, StepKind::HashJoin)];

        // A tenth as many or ten times as many as expected, where a thousand rows were or came.
        $expected = static fn (float $estimated, float $actual, int $loops = 1): PlanStep => new PlanStep(
            StepKind::Filter,
            rows: new StepRows($estimated, $actual, loops: $loops),
        );
        yield from $both('estimate-off', 'too many', static fn (float $n): PlanStep => $expected($n, 1000.0), 10_000.0, 10_001.0);
        yield from $both('estimate-off', 'too few', static fn (float $n): PlanStep => $expected(1000.0, $n), 10_000.0, 10_001.0);
        yield from $both('estimate-off', 'rows', static fn (float $n): PlanStep => $expected($n, 1.0), 999.0, 1000.0);
        yield 'estimate-off of each of many runs' => ['estimate-off', false, $expected(2000.0, 2_000_000.0, 1000)];
        yield 'estimate-off of rows that only change nodes' => [
            'estimate-off', false, new PlanStep(StepKind::Gather, rows: new StepRows(1.0, 90_000.0)),
        ];

        // A fifth of the rows changed, of a thousand.
        $stale = static fn (?float $changed, int $rows = 1000, ?int $age = 5, bool $known = true): PlanStep => new PlanStep(
            StepKind::Scan,
            table: new TableFacts('a.b', $rows, statisticsAgeUs: $age, changedShare: $changed, statisticsKnown: $known),
        );
        yield from $both('stale-statistics', 'changed', $stale, 0.2, 0.21);
        yield from $both('stale-statistics', 'rows', static fn (int $rows): PlanStep => $stale(0.9, $rows), 999, 1000);
        yield from $both('no-statistics', 'age', static fn (?int $age): PlanStep => $stale(null, age: $age), 5, null);
        yield 'no-statistics where the engine keeps them to itself' => ['no-statistics', false, $stale(null, age: null, known: false)];

        // Two and a half times the mean, of ten thousand rows that are three tenths of the table.
        $uneven = static fn (array $rows, ?TableFacts $table = null, ?StepKind $below = null, ?float $in = null): PlanStep => new PlanStep(
            $table === null ? StepKind::Aggregate : StepKind::Scan,
            'by bay',
            $table,
            rows: new StepRows(actual: (float) array_sum($rows), in: $in),
            nodes: array_map(static fn (int $n): NodeShare => new NodeShare($n, 0, 0, 0, 0, 1), array_values($rows)),
            inputs: $below === null ? [] : [new PlanStep($below)],
        );
        $of = static fn (int $rows, string $distribution = 'by bay'): TableFacts => new TableFacts('a.b', $rows, $distribution);
        yield from $both(
            'skewed-node',
            'spread',
            static fn (int $most): PlanStep => $uneven([$most, 10_000 - $most, 0, 0], $of(10_000)),
            6249,
            6250,
        );
        yield from $both('skewed-node', 'rows', static fn (int $n): PlanStep => $uneven([$n, 0, 0, 0], $of(10_000)), 9999, 10_000);
        yield from $both('skewed-node', 'share', static fn (int $all): PlanStep => $uneven([12_000, 0, 0, 0], $of($all)), 40_001, 40_000);
        yield from $both(
            'skewed-node',
            'placement',
            static fn (string $placed): PlanStep => $uneven([12_000, 0, 0, 0], $of(12_000, $placed)),
            'everywhere',
            'by bay',
        );
        yield from $both(
            'skewed-node',
            'key',
            static fn (StepKind $below): PlanStep => $uneven([12_000, 0, 0, 0], below: $below),
            StepKind::Gather,
            StepKind::Repartition,
        );

        // Ten times the rows of the small table, from ten thousand on, which the join could have told by their order.
        $filter = static fn (
            float $large = 10_000.0,
            float $small = 1000.0,
            array $conditions = ['week = 4'],
            string $on = 'CAST(seen AS date) = day',
            int $only = 1,
            ?TableFacts $facts = new TableFacts('field.t', partitionColumn: 'seen'),
        ): PlanStep => new PlanStep(
            StepKind::HashJoin,
            conditions: ['not SQL (', $on],
            rows: new StepRows(actual: 40.0),
            inputs: [
                new PlanStep(StepKind::Filter, inputs: [new PlanStep(StepKind::Scan, table: $facts, rows: new StepRows(in: $large))]),
                new PlanStep(
                    StepKind::Scan,
                    table: new TableFacts('ref.day'),
                    conditions: array_values(array_map(strval(...), $conditions)),
                    rows: new StepRows(in: $small),
                ),
            ],
            onlyFilters: $only,
        );
        yield from $both('filter-only-join', 'rows', static fn (float $n): PlanStep => $filter($n, 10.0), 9999.0, 10_000.0);
        yield from $both('filter-only-join', 'ratio', static fn (float $n): PlanStep => $filter(small: $n), 1001.0, 1000.0);
        yield from $both('filter-only-join', 'filter', static fn (array $on): PlanStep => $filter(conditions: $on), [], ['week = 4']);
        yield from $both('filter-only-join', 'column', static fn (string $on): PlanStep => $filter(on: $on), 'crew = day', 'seen = day');
        yield from $both('filter-only-join', 'use', static fn (int $only): PlanStep => $filter(only: $only), -1, 1);
        yield from $both(
            'filter-only-join',
            'table',
            static fn (?TableFacts $facts): PlanStep => $filter(facts: $facts),
            null,
            new TableFacts('field.t', clustering: ['seen']),
        );

        // A byte beyond the memory.
        yield from $both(
            'spill',
            'bytes',
            static fn (int $bytes): PlanStep => new PlanStep(StepKind::Sort, cost: new StepCost(bytesSpilled: $bytes)),
            0,
            1,
        );

        // Two chunks.
        $wrapped = static fn (int $chunks): PlanStep => new PlanStep(
            StepKind::Scan,
            table: new TableFacts('a.b', 9, partitionColumn: 'seen'),
            conditions: ['CAST(seen AS date) = other'],
            reads: new StepReads($chunks, $chunks),
        );
        yield from $both('wrapped-column', 'chunks', $wrapped, 1, 2);
    }

    #[DataProvider('limits')]
    public function test_a_rule_applies_from_its_limit_on(string $rule, bool $applies, PlanStep $root): void
    {
        $rules = array_map(static fn (PlanFinding $finding): string => $finding->rule, self::check($root));
        self::assertSame($applies, in_array($rule, $rules, true), implode(', ', $rules));
    }

    /**
     * @return iterable<string, array{string, string, string, int|null, PlanStep}> problem, evidence, start of the remedy, time at stake
     */
    public static function words(): iterable
    {
        $facts = new TableFacts('field.pick', 40_000, 'by grade', clustering: ['picked_at']);
        yield 'full-read' => [
            'field.pick is read almost whole to keep 2.5% of its rows',
            '40 000 rows read, 1 000 kept by grade = 7; 30 of 32 chunks could not be skipped',
            'Sort or cut the table by the filtered column, so that whole chunks can be skipped; it is clustered by picked_at.',
            700,
            new PlanStep(
                StepKind::Scan,
                table: $facts,
                conditions: ['grade = 7'],
                rows: new StepRows(actual: 1000.0, in: 40_000.0),
                cost: new StepCost(700),
                reads: new StepReads(30, 32, bytes: 95, bytesTotal: 100),
            ),
        ];
        yield 'large-broadcast' => [
            '4 000 rows are copied to each of 4 nodes',
            '2.79 GiB sent (modelled)',
            'Place both tables by the key of the join',
            80,
            new PlanStep(StepKind::Broadcast, rows: new StepRows(in: 4000.0), cost: new StepCost(80, 3_000_000)),
        ];
        yield 'exploding-join' => [
            'A join gives 15 times the rows of its larger input',
            '2 000 and 4 000 rows in, 60 000 out; joined by a = b',
            'The join key is not unique on either side',
            30,
            new PlanStep(
                StepKind::HashJoin,
                conditions: ['a = b'],
                rows: new StepRows(actual: 60_000.0),
                cost: new StepCost(20),
                inputs: [
                    new PlanStep(StepKind::Values, rows: new StepRows(actual: 2000.0), cost: new StepCost(7)),
                    new PlanStep(StepKind::Values, rows: new StepRows(2.0, 4000.0), cost: new StepCost(3)),
                ],
            ),
        ];
        yield 'repeated-subquery' => [
            'A subquery is run 60 times',
            'Each run starts from the beginning; all of them take 12 µs',
            'Compute it once for all values',
            12,
            new PlanStep(
                StepKind::Subquery,
                rows: new StepRows(loops: 60),
                inputs: [new PlanStep(StepKind::Values, cost: new StepCost(12))],
            ),
        ];
        yield 'sort-for-few' => [
            '20 000 rows are sorted to keep 10',
            '"Sort" by kilos; above it "Limit" first 10 keeps <0.1%',
            'Put ORDER BY and LIMIT on the same query level',
            55,
            new PlanStep(
                StepKind::Limit,
                'first 10',
                rows: new StepRows(actual: 10.0),
                inputs: [new PlanStep(StepKind::Sort, 'by kilos', rows: new StepRows(actual: 20_000.0), cost: new StepCost(55))],
            ),
        ];
        yield 'estimate-off' => [
            'At "Filter" the estimate is off by 20 times',
            '1 000 rows expected, 20 000 came; steps above inherit the error',
            'Look at the conditions of this step',
            9,
            new PlanStep(StepKind::Filter, rows: new StepRows(1000.0, 20_000.0), cost: new StepCost(9)),
        ];
        yield 'stale-statistics' => [
            'The statistics of field.pick describe an older table',
            'Collected 3 s ago; rows changed since: 45% of what there was',
            'Collect statistics',
            10_000,
            new PlanStep(
                StepKind::Scan,
                table: new TableFacts('field.pick', 5000, statisticsAgeUs: 3_000_000, changedShare: 0.45, statisticsKnown: true),
                cost: new StepCost(4),
            ),
        ];
        yield 'no-statistics' => [
            'field.pick has no statistics, so the planner guesses',
            'It has 5 000 rows; the planner takes 1 000, expected 1 000 rows here and got 4 000',
            'Collect statistics',
            10_000,
            new PlanStep(
                StepKind::Scan,
                table: new TableFacts('field.pick', 5000, statisticsKnown: true),
                rows: new StepRows(1000.0, 4000.0),
                cost: new StepCost(4),
            ),
        ];
        yield 'skewed-node' => [
            'Node 2 holds 80% of the rows read from field.pick',
            'Rows of the fullest node over the mean: 3.2 times; 3 of 4 nodes have any',
            'Place the table by a column with many values; it is placed by grade.',
            6,
            new PlanStep(
                StepKind::Scan,
                table: $facts,
                rows: new StepRows(actual: 20_000.0, in: 20_000.0),
                cost: new StepCost(6),
                nodes: array_map(static fn (int $n): NodeShare => new NodeShare(0, $n, 0, 0, 0, 1), [2000, 16_000, 0, 2000]),
            ),
        ];
        yield 'spill' => [
            '"Aggregate" does not fit in the memory of a node',
            '2 MiB go to disk, of a peak of 5 MiB (modelled)',
            'Filter earlier, take fewer columns, or group by fewer values.',
            3,
            new PlanStep(StepKind::Aggregate, cost: new StepCost(3, memoryPeak: 5243, bytesSpilled: 2097)),
        ];
        yield 'wrapped-column' => [
            'A filter wraps the clustering column picked_at of field.pick in an expression',
            'CAST(picked_at AS date) = day tells nothing about picked_at itself: 9 of 9 chunks were read',
            'Compare picked_at itself with constants.',
            2,
            new PlanStep(
                StepKind::Scan,
                table: $facts,
                conditions: ['CAST(picked_at AS date) = day', 'not SQL (', 'picked_at > day'],
                rows: new StepRows(actual: 1.0),
                cost: new StepCost(2),
                reads: new StepReads(9, 9),
            ),
        ];
    }

    #[DataProvider('words')]
    public function test_a_finding_says_what_it_rests_on(
        string $problem,
        string $evidence,
        string $remedy,
        ?int $atStakeUs,
        PlanStep $root,
    ): void {
        $rule = (string) $this->dataName();
        $found = array_values(array_filter(self::check($root), static fn (PlanFinding $finding): bool => $finding->rule === $rule));
        self::assertCount(1, $found);
        $plain = static fn (string $text): string => str_replace("\u{202F}", ' ', $text);
        self::assertSame([$problem, $evidence], [$plain($found[0]->problem), $plain($found[0]->evidence)]);
        self::assertSame($atStakeUs, $found[0]->atStakeUs);
        self::assertSame($remedy, substr($found[0]->remedy, 0, strlen($remedy)));
        self::assertSame($root->kind === StepKind::Limit ? $root->inputs[0] : $root, $found[0]->step);
    }

    public function test_all_that_is_wrong_is_told_though_something_else_came_before(): void
    {
        $sorted = static fn (float $kept): PlanStep => new PlanStep(
            StepKind::Limit,
            rows: new StepRows(actual: $kept),
            inputs: [new PlanStep(StepKind::Sort, rows: new StepRows(actual: 20_000.0))],
        );
        $table = static fn (string $name, float $changed): PlanStep => new PlanStep(
            StepKind::Scan,
            table: new TableFacts($name, 5000, statisticsAgeUs: 5, changedShare: $changed, statisticsKnown: true),
        );
        $root = new PlanStep(StepKind::Append, inputs: [
            $sorted(9000.0), $sorted(10.0), $table('a.fresh', 0.1), $table('a.stale', 0.9), $table('a.stale', 0.9), $table('a.old', 0.5),
        ]);
        $count = array_count_values(array_map(static fn (PlanFinding $finding): string => $finding->rule, self::check($root)));
        self::assertSame([1, 2], [$count['sort-for-few'] ?? 0, $count['stale-statistics'] ?? 0], 'each table once');
    }

    /** What a rule finds below is not found again above it. */
    public function test_skew_is_blamed_where_it_begins(): void
    {
        $nodes = array_map(static fn (int $n): NodeShare => new NodeShare($n, $n, 0, 0, 0, 1), [20_000, 0, 0, 0]);
        $scan = new PlanStep(
            StepKind::Scan,
            table: new TableFacts('a.b', 20_000, 'by bay'),
            rows: new StepRows(actual: 20_000.0),
            nodes: $nodes,
        );
        $group = new PlanStep(
            StepKind::Aggregate,
            rows: new StepRows(actual: 20_000.0),
            nodes: $nodes,
            inputs: [new PlanStep(StepKind::Repartition, inputs: [$scan])],
        );
        $skewed = array_filter(self::check($group), static fn (PlanFinding $finding): bool => $finding->rule === 'skewed-node');
        self::assertSame([$scan], array_column($skewed, 'step'));
    }

    /**
     * @return list<PlanFinding>
     */
    private static function check(PlanStep $root): array
    {
        return (new PlanRules())->check(new Plan($root, 'practice', true, true, 10_000, '', 4, 1000));
    }

    /**
     * @param  list<string>  $conditions
     */
    private static function read(
        ?float $kept = 10.0,
        float $rows = 100_000.0,
        ?int $chunks = 8,
        int $bytes = 100_000,
        array $conditions = ['bay = 4'],
        bool $table = true,
        StepKind $kind = StepKind::Scan,
    ): PlanStep {
        return new PlanStep(
            $kind,
            table: $table ? new TableFacts('field.t', (int) $rows, 'by bay') : null,
            conditions: $conditions,
            rows: new StepRows($kept, $kept, $rows),
            cost: new StepCost(700),
            reads: $chunks === null ? new StepReads() : new StepReads($chunks, $chunks, bytes: $bytes, bytesTotal: 100_000),
        );
    }
}
