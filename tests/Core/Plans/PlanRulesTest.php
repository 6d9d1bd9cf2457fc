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

final class PlanRulesTest extends TestCase
{
    /** @return iterable<string, array{string, PlanStep, PlanStep}> rule, a plan that breaks it, one that does not */
    public static function rules(): iterable
    {
        $scan = self::scan(...);
        $even = array_fill(0, 4, 25_000);
        yield 'full read' => [
            'full-read',
            $scan(kept: 100, conditions: ['bay = 4']),
            $scan(kept: 100, conditions: ['bay = 4'], chunksRead: 5),
        ];
        yield 'wrapped partition column' => [
            'wrapped-column',
            $scan(conditions: ["CAST(seen AS date) = DATE '2026-03-01'"]),
            $scan(conditions: ["seen >= TIMESTAMP '2026-03-01 00:00:00'"]),
        ];
        yield 'wrapped clustering column' => ['wrapped-column', $scan(conditions: ['bay + 1 = 5']), $scan(conditions: ['other + 1 = 5'])];
        yield 'estimate' => ['estimate-off', $scan(estimated: 500), $scan(estimated: 60_000)];
        yield 'no statistics' => ['no-statistics', $scan(statisticsAgeUs: null), $scan()];
        yield 'stale statistics' => ['stale-statistics', $scan(changed: 0.9), $scan(changed: 0.1)];
        yield 'large broadcast' => [
            'large-broadcast',
            self::exchange(StepKind::Broadcast, 3_000_000),
            self::exchange(StepKind::Broadcast, 30_000),
        ];
        $join = static fn (
            PlanStep $left,
            int $out,
            StepKind $kind = StepKind::HashJoin,
            int $only = -1,
            string $condition = 'a.bay = b.bay',
            ?PlanStep $right = null,
        ): PlanStep => new PlanStep(
            $kind,
            $condition,
            null,
            $condition === '' ? [] : [$condition],
            new StepRows((float) $out, (float) $out, 200_000.0, 1),
            new StepCost(900),
            inputs: [$left, $right ?? $scan()],
            onlyFilters: $only,
        );
        yield 'repartition' => [
            'avoidable-repartition',
            $join(self::exchange(StepKind::Repartition, 3_000_000), 90_000),
            $join(self::exchange(StepKind::Repartition, 30_000), 90_000),
        ];
        yield 'skewed table' => ['skewed-node', $scan(nodes: [97_000, 1000, 1000, 1000]), $scan(nodes: $even)];
        $grouped = static fn (array $rows): PlanStep => new PlanStep(
            StepKind::Aggregate,
            'by bay',
            null,
            [],
            new StepRows(100_000.0, 100_000.0, 100_000.0, 1),
            new StepCost(50),
            nodes: self::shares(array_values($rows)),
            inputs: [self::exchange(StepKind::Repartition, 10)],
        );
        yield 'skewed key' => ['skewed-node', $grouped([97_000, 1000, 1000, 1000]), $grouped($even)];
        yield 'spill' => [
            'spill',
            new PlanStep(
                StepKind::Sort,
                rows: new StepRows(actual: 5000.0),
                cost: new StepCost(memoryPeak: 900, bytesSpilled: 400),
                inputs: [$scan()],
            ),
            new PlanStep(
                StepKind::Sort,
                rows: new StepRows(actual: 5000.0),
                cost: new StepCost(memoryPeak: 900, bytesSpilled: 0),
                inputs: [$scan()],
            ),
        ];
        yield 'cross join' => [
            'cross-join',
            $join($scan(), 500_000, StepKind::CrossJoin, condition: ''),
            $join($scan(), 5000, StepKind::CrossJoin, condition: ''),
        ];
        yield 'exploding join' => ['exploding-join', $join($scan(), 5_000_000), $join($scan(), 150_000)];
        $top = static fn (int $kept): PlanStep => new PlanStep(
            StepKind::Filter,
            'rank = 1',
            null,
            [],
            new StepRows(100_000.0, (float) $kept, 100_000.0),
            inputs: [new PlanStep(
                StepKind::Window,
                'rank() OVER (ORDER BY x)',
                null,
                [],
                new StepRows(100_000.0, 100_000.0),
                inputs: [$scan()],
            )],
        );
        yield 'sort for few' => ['sort-for-few', $top(12), $top(60_000)];
        $subquery = static fn (int $loops): PlanStep => new PlanStep(
            StepKind::Result,
            inputs: [$scan(), new PlanStep(
                StepKind::Subquery,
                rows: new StepRows(loops: $loops),
                inputs: [new PlanStep(StepKind::Values)],
            )],
        );
        yield 'repeated subquery' => ['repeated-subquery', $subquery(4000), $subquery(1)];
        $small = new PlanStep(
            StepKind::Scan,
            'ref.day',
            new TableFacts('ref.day', 900, statisticsAgeUs: 1, changedShare: 0.0, statisticsKnown: true),
            ['week = 4'],
            new StepRows(7.0, 7.0, 900.0),
        );
        yield 'join that only filters' => [
            'filter-only-join',
            $join($scan(), 5000, only: 1, condition: 'CAST(seen AS date) = day', right: $small),
            $join($scan(), 5000, only: -1, condition: 'CAST(seen AS date) = day', right: $small),
        ];
        yield 'join that filters by another column' => [
            'filter-only-join',
            $join($scan(), 5000, only: 1, condition: 'CAST(seen AS date) = day', right: $small),
            $join($scan(), 5000, only: 1, condition: 'crew = crew_id', right: $small),
        ];
    }

    #[DataProvider('rules')]
    public function test_each_rule_accuses_the_guilty_and_nobody_else(string $rule, PlanStep $guilty, PlanStep $innocent): void
    {
        $named = static fn (PlanStep $root): array => array_map(
            static fn (PlanFinding $finding): string => $finding->rule,
            (new PlanRules())->check(self::plan($root)),
        );
        self::assertContains($rule, $named($guilty));
        self::assertNotContains($rule, $named($innocent));
    }

    /** @return iterable<array{string, string|null}> */
    public static function predicates(): iterable
    {
        yield [
            "CAST(seen AS date) = DATE '2026-02-28'",
            "seen >= TIMESTAMP '2026-02-28 00:00:00' AND seen < TIMESTAMP '2026-03-01 00:00:00'",
        ];
        yield [
            "date_trunc('month', seen) = TIMESTAMP '2026-12-01 00:00:00'",
            "seen >= TIMESTAMP '2026-12-01 00:00:00' AND seen < TIMESTAMP '2027-01-01 00:00:00'",
        ];
        yield ["date_trunc('week', seen) >= TIMESTAMP '2026-03-02 00:00:00'", "seen >= TIMESTAMP '2026-03-02 00:00:00'"];
        yield ["DATE '2026-03-01' > CAST(seen AS date)", "seen < TIMESTAMP '2026-03-01 00:00:00'"];
        yield ["CAST(seen AS date) <= DATE '2026-03-01'", "seen < TIMESTAMP '2026-03-02 00:00:00'"];
        yield ['EXTRACT(YEAR FROM seen) = 2026', "seen >= TIMESTAMP '2026-01-01 00:00:00' AND seen < TIMESTAMP '2027-01-01 00:00:00'"];
        yield ['EXTRACT(MONTH FROM seen) = 3', null];
    }

    #[DataProvider('predicates')]
    public function test_a_wrapped_predicate_is_rewritten_where_it_is_a_span(string $wrapped, ?string $bare): void
    {
        $findings = array_values(
            array_filter(
                (new PlanRules())->check(self::plan(self::scan(conditions: [$wrapped]))),
                static fn (PlanFinding $finding): bool => $finding->rule === 'wrapped-column',
            ),
        );
        self::assertCount(1, $findings);
        self::assertSame($bare, $findings[0]->replacement);
    }

    public function test_an_estimate_is_blamed_where_it_began(): void
    {
        $scan = self::scan(estimated: 100);
        $join = new PlanStep(
            StepKind::HashJoin,
            'a = b',
            null,
            ['a = b'],
            new StepRows(100.0, 90_000.0),
            inputs: [$scan, self::scan()],
        );
        $sort = new PlanStep(StepKind::Sort, 'by a', null, [], new StepRows(100.0, 90_000.0), inputs: [$join]);
        $off = array_values(
            array_filter(
                (new PlanRules())->check(self::plan($sort)),
                static fn (PlanFinding $finding): bool => $finding->rule === 'estimate-off',
            ),
        );
        self::assertSame([$scan], array_map(static fn (PlanFinding $finding): PlanStep => $finding->step, $off));
        $stopped = new PlanStep(
            StepKind::Limit,
            'first 5',
            rows: new StepRows(5.0, 5.0),
            inputs: [self::scan(estimated: 2_000_000)],
        );
        self::assertNotContains(
            'estimate-off',
            array_map(static fn (PlanFinding $finding): string => $finding->rule, (new PlanRules())->check(self::plan($stopped))),
        );
    }

    private static function plan(PlanStep $root): Plan
    {
        return new Plan($root, 'practice', true, true, 10_000, '', 4, 1000);
    }

    /**
     * @param  list<string>  $conditions
     * @param  list<int>  $nodes
     */
    private static function scan(
        int $kept = 100_000,
        array $conditions = [],
        int $chunksRead = 40,
        int $estimated = 100_000,
        ?int $statisticsAgeUs = 1000,
        float $changed = 0.0,
        array $nodes = [],
    ): PlanStep {
        $table = new TableFacts(
            'field.t',
            100_000,
            'by bay',
            'seen',
            ['bay'],
            ['seen' => 'timestamp', 'bay' => 'bigint'],
            $statisticsAgeUs,
            $statisticsAgeUs === null ? null : $changed,
            true,
        );

        return new PlanStep(
            StepKind::Scan,
            'field.t',
            $table,
            $conditions,
            new StepRows((float) min($estimated, $estimated === 100_000 ? $kept : $estimated), (float) $kept, 100_000.0, 1),
            new StepCost(700),
            new StepReads($chunksRead, 40, 28, 28, $chunksRead * 1000, 40_000),
            self::shares($nodes),
        );
    }

    private static function exchange(StepKind $kind, int $bytes): PlanStep
    {
        return new PlanStep(
            $kind,
            'by bay',
            null,
            [],
            new StepRows(100_000.0, 100_000.0, 100_000.0, 1),
            new StepCost(80, $bytes),
            inputs: [self::scan()],
        );
    }

    /**
     * @param  list<int>  $rows
     * @return list<NodeShare>
     */
    private static function shares(array $rows): array
    {
        return array_map(static fn (int $count): NodeShare => new NodeShare($count, $count, 0, 0, 0, 1), $rows);
    }
}
