<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\HouseRules;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\LayoutHistory;
use Fulcrion\Core\Storage\LayoutStatistics;
use Fulcrion\Core\Storage\Partitioning;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\UseReader;
use Fulcrion\Core\Storage\Workload;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * Each house rule on a table that breaks it and nothing else, and all of them on one that is in order.
 */
final class HouseRulesTest extends TestCase
{
    private const DAY_US = 86_400_000_000;

    private const NOW_US = 20_780 * self::DAY_US;

    /**
     * @return iterable<string, array{string, callable(): array{TableLayout, list<string>}}>
     */
    public static function broken(): iterable
    {
        $sql = 'SELECT t.id, t.day, t.word, t.amount, t.other FROM s.t t WHERE t.day >= date \'2026-11-01\'';
        yield 'copied' => [
            'copied-large',
            static fn (): array => [self::table(distribution: Distribution::copy(), node: Chunk::EVERY_NODE), [$sql]],
        ];
        yield 'skew' => [
            'skew',
            static fn (): array => [self::table(rows: [90_000, 10_000, 10_000, 10_000], distribution: Distribution::hash('id')), [$sql]],
        ];
        yield 'partitions' => [
            'too-many-partitions',
            static fn (): array => [
                self::table(rows: array_fill(0, 80, 400), chunkRows: 400, partitioned: true, rowFactor: 1),
                ['SELECT t.id, t.day, t.word, t.amount, t.other FROM s.t t'],
            ],
        ];
        yield 'hidden' => [
            'hidden-column',
            static fn (): array => [
                self::table(clustering: ['day']),
                [$sql, "SELECT count(*), sum(amount) FROM s.t WHERE date_trunc('month', day) = date '2026-11-01'"],
            ],
        ];
        yield 'no statistics' => ['missing-statistics', static fn (): array => [self::table(statistics: false), [$sql]]];
        yield 'old statistics' => ['stale-statistics', static fn (): array =>
            [self::table(ageUs: 20 * self::DAY_US, changed: 0.6), [$sql]]];
        yield 'join of other types' => [
            'join-types',
            static fn (): array => [self::table(), [$sql, 'SELECT t.id FROM s.t JOIN s.o ON o.id = t.word']],
        ];
        yield 'nullable key' => [
            'nullable-join-key',
            static fn (): array => [self::table(), [$sql, 'SELECT t.id FROM s.t JOIN s.o ON o.id = t.other']],
        ];
        yield 'wide key' => [
            'wide-key',
            static fn (): array => [self::table(word: str_repeat('wide ', 8), distribution: Distribution::hash('word')), [$sql]],
        ];
        yield 'unused' => ['unused-table', static fn (): array => [self::table(), ['SELECT id FROM s.o']]];
        yield 'unused columns' => [
            'unused-columns',
            static fn (): array => [self::table(), ["SELECT t.id, t.day FROM s.t WHERE t.day >= date '2026-11-01'"]],
        ];
        yield 'old versions' => ['expired-versions', static fn (): array => [self::table(versions: true), [$sql]]];
        yield 'orphans' => ['orphan-files', static fn (): array => [self::table(orphans: 3), [$sql]]];
        yield 'tiny' => ['tiny-chunks', static fn (): array => [self::table(rows: array_fill(0, 400, 100)), [$sql]]];
    }

    /**
     * @param  callable(): array{TableLayout, list<string>}  $make
     */
    #[DataProvider('broken')]
    public function test_a_broken_rule_is_named_and_no_other(string $rule, callable $make): void
    {
        [$table, $statements] = $make();
        $found = HouseRules::check(self::case($table, $statements));
        self::assertSame(
            [$rule],
            array_map(static fn ($f): string => $f->rule, $found),
            implode('; ', array_map(static fn ($f): string => $f->problem, $found)),
        );
        self::assertNotSame('', $found[0]->problem);
        self::assertSame([], HouseRules::check(self::case($table, $statements), [], [$rule]), 'it can be turned off');
    }

    /**
     * 120,000 rows stand for a thousand times as many, of two bytes each: 229 MiB on four nodes.
     *
     * @return iterable<string, array{string, string, list<array{string, string}>, float, float, list<string>}>
     */
    public static function figures(): iterable
    {
        yield 'copied' => [
            'copied', 's.t is copied to all 4 nodes although it holds 120 M rows',
            [['stored', '916 MiB instead of 229 MiB'], ['joins read', 'all of it on every node instead of a part on each']],
            0.0, 720e6, [],
        ];
        // Three times the mean of 30,000; a hundred runs wait for the two thirds of 5 * 22,500 bytes a run that are too many.
        yield 'skew' => [
            'skew', 's.t is placed by id, and node 1 holds 75% of its rows',
            [['skew', '3 times the mean'], ['idle nodes', '0 of 4 hold no row']],
            1_125_000.0, 0.0, [],
        ];
        yield 'partitions' => [
            'partitions', "s.t splits 32\u{202F}000 rows into 80 partitions",
            [
                ['rows a partition', '400 on average'], ['files', '80'],
                ['bytes a row when kept together', '100% of now, measured by writing a sample'],
            ],
            0.0, 0.0, [],
        ];
        yield 'no statistics' => [
            'no statistics', 's.t never had statistics collected',
            [['columns that need them', 'day'], ['at stake', '0 µs a week of joins planned without them']],
            0.0, 0.0, ['ANALYZE TABLE s.t (day)'],
        ];
        yield 'old statistics' => [
            'old statistics', 'Statistics of s.t are 20 d old; 60% of its rows changed since',
            [['columns that need them', 'day'], ['at stake', '1 min 40 s a week of statements planned by them']],
            0.0, 0.0, ['ANALYZE TABLE s.t (day)'],
        ];
        yield 'join of other types' => [
            'join of other types', 's.t is joined by columns of another type',
            [['word with s.o.id', '100 executions and 1 min 40 s a week']],
            0.0, 0.0, [],
        ];
        yield 'nullable key' => [
            'nullable key', 's.t is joined by a column that may be null',
            [['other', 'may be null though no row is; 100 joins a week']],
            0.0, 0.0, [],
        ];
        yield 'wide key' => ['wide key', 'Keys of s.t are wide texts', [['word', '40 bytes on average']], 0.0, 0.0, []];
        yield 'unused' => [
            'unused', 'No statement of the history read s.t', [['stored', '229 MiB'], ['written by', 'nothing either']], 0.0, 240e6, [],
        ];
        yield 'unused columns' => [
            'unused columns', '3 columns of s.t were read by no statement of the history',
            [['word', '28.6 MiB'], ['amount', '28.6 MiB'], ['other', '28.6 MiB']],
            0.0, 90e6, [],
        ];
        yield 'old versions' => [
            'old versions', 'An old version of s.t keeps files nobody else needs',
            [['kept for them', '858 MiB'], ['oldest', '30 d old']],
            0.0, 900e6, ['MAINTAIN TABLE s.t WITH (action = expire, days = 7, keep = 2)'],
        ];
        yield 'orphans' => [
            'orphans', '3 files of s.t belong to no version', [['they take', '293 KiB']],
            0.0, 300e3, ['MAINTAIN TABLE s.t WITH (action = sweep)'],
        ];
        yield 'tiny' => [
            'tiny', 's.t lies in 400 chunks, 100% of them tiny',
            [
                ['after compaction', '4 chunks'], ['rewritten', '76.3 MiB'],
                ['bytes a row when packed', '100% of now, measured by writing part of a sample'],
            ],
            0.0, 0.0, ['MAINTAIN TABLE s.t WITH (action = compact)'],
        ];
    }

    /**
     * @param  list<array{string, string}>  $evidence
     * @param  list<string>  $remedy
     */
    #[DataProvider('figures')]
    public function test_what_is_found_is_told_with_its_figures(
        string $of,
        string $problem,
        array $evidence,
        float $us,
        float $bytes,
        array $remedy,
    ): void {
        $cases = iterator_to_array(self::broken());
        [$table, $statements] = $cases[$of][1]();
        $found = HouseRules::check(self::case($table, $statements))[0];
        self::assertSame([$problem, $evidence, $remedy], [$found->problem, $found->evidence, $found->statements]);
        self::assertEqualsWithDelta([$us, $bytes], [$found->weightUs, $found->weightBytes], 1e-3);
    }

    public function test_a_filter_that_hides_its_column_is_told_with_what_it_would_read_as_a_span(): void
    {
        // A month that begins with the last of the two days of the third of four chunks: two of them are read instead of all.
        [$table, $statements] = iterator_to_array(self::broken())['hidden'][1]();
        $found = HouseRules::check(self::case($table, $statements))[0];
        self::assertSame(
            [
                ['filter', 'date_trunc(\'month\', "day") = DATE \'2026-11-01\''],
                ['reads', '100% of the table; as a span it would read 50%'],
                [
                    'said as a span',
                    'SELECT count(*), sum(amount) FROM s.t WHERE "day" >= DATE \'2026-11-01\' AND "day" < DATE \'2026-12-01\'',
                ],
            ],
            $found->evidence,
        );
        // Two columns of 7,500 bytes in each of two chunks, a thousandfold, a hundred times a week.
        self::assertEqualsWithDelta(2 * 2 * 7_500 * 1_000 * 100, $found->weightBytes, 1e-3);
    }

    public function test_limits_count_what_reaches_them(): void
    {
        $cases = iterator_to_array(self::broken());
        foreach (
            [
                // The rule, its case, its limit, what is there, and how little more is not there any more.
                ['join-types', 'join of other types', 'executions', 100.0, 0.1],
                ['nullable-join-key', 'nullable key', 'executions', 100.0, 0.1],
                ['missing-statistics', 'no statistics', 'executions', 100.0, 0.1],
                ['unused-columns', 'unused columns', 'share', 0.375, 1e-6],
                ['unused-table', 'unused', 'rows', 120_000.0, 1.0],
                ['wide-key', 'wide key', 'bytes', 40.0, 0.01],
                ['orphan-files', 'orphans', 'files', 3.0, 1.0],
                ['copied-large', 'copied', 'rows', 120e6, 1.0],
                ['skew', 'skew', 'skew', 3.0, 1e-6],
                ['skew', 'skew', 'rows', 120_000.0, 1.0],
                ['too-many-partitions', 'partitions', 'partitions', 80.0, 1.0],
                ['hidden-column', 'hidden', 'executions', 100.0, 0.1],
                ['stale-statistics', 'old statistics', 'days', 20.0, 0.01],
                ['stale-statistics', 'old statistics', 'changed', 0.6, 1e-6],
                ['wide-key', 'wide key', 'rows', 120_000.0, 1.0],
                ['expired-versions', 'old versions', 'share', 3.75, 1e-6],
                ['tiny-chunks', 'tiny', 'share', 1.0, 1e-6],
                ['tiny-chunks', 'tiny', 'saved', 396.0, 1.0],
                // Less than so many rows a partition are few; what is older than so many days is old, beyond those that are kept.
                ['too-many-partitions', 'partitions', 'rows', 400.1, -0.1],
                ['expired-versions', 'old versions', 'days', 29.99, 0.01],
                ['expired-versions', 'old versions', 'keep', 2.0, 1.0],
            ] as [$rule, $of, $limit, $there, $more]
        ) {
            [$table, $statements] = $cases[$of][1]();
            $case = self::case($table, $statements);
            $found = static fn (float $value): array => array_map(
                static fn (LayoutFinding $one): string => $one->rule,
                HouseRules::check($case, [$rule => [$limit => $value]]),
            );
            self::assertSame([[$rule], []], [$found($there), $found($there + $more)], $rule);
        }
    }

    public function test_what_has_to_be_done_and_what_is_worth_a_look(): void
    {
        $act = [];
        foreach (self::broken() as $of => [, $make]) {
            [$table, $statements] = $make();
            $act[HouseRules::check(self::case($table, $statements))[0]->act ? 'act' : 'watch'][] = $of;
        }
        self::assertSame(
            [
                'act' => ['copied', 'skew', 'hidden', 'no statistics', 'old statistics', 'tiny'],
                'watch' => [
                    'partitions', 'join of other types', 'nullable key', 'wide key', 'unused', 'unused columns', 'old versions', 'orphans',
                ],
            ],
            $act,
        );
    }

    public function test_joins_planned_without_statistics_are_at_stake_and_nothing_else(): void
    {
        $join = 'SELECT t.id FROM s.t JOIN s.o ON o.id = t.id WHERE t.day = date \'2026-11-01\'';
        $sql = 'SELECT t.word, t.amount, t.other FROM s.t t';
        $found = HouseRules::check(self::case(self::table(statistics: false), [$join, $sql, 'SELECT o.id FROM s.o']));
        self::assertSame(['missing-statistics'], array_map(static fn (LayoutFinding $one): string => $one->rule, $found));
        self::assertSame(
            [['columns that need them', 'day, id'], ['at stake', '1 min 40 s a week of joins planned without them']],
            $found[0]->evidence,
        );
    }

    public function test_only_rows_that_are_dealt_to_several_nodes_can_be_skewed(): void
    {
        $sql = 'SELECT t.id, t.day, t.word, t.amount, t.other FROM s.t t';
        $rules = static fn (TableLayout $table): array => array_map(
            static fn (LayoutFinding $one): string => $one->rule,
            HouseRules::check(self::case($table, [$sql]), ['skew' => ['skew' => 0.5]]),
        );
        self::assertSame(['skew'], $rules(self::table(distribution: Distribution::hash('id'))));
        self::assertNotContains('skew', $rules(self::table(distribution: Distribution::copy(), node: Chunk::EVERY_NODE)));
        self::assertNotContains('skew', $rules(self::table(rows: [4_999, 4_999, 4_999, 5_002], distribution: Distribution::hash('id'))));
        self::assertSame(['skew'], $rules(self::table(rows: [4_999, 4_999, 4_999, 5_003], distribution: Distribution::hash('id'))));
    }

    public function test_what_is_only_written_is_used_by_nobody(): void
    {
        $found = HouseRules::check(self::case(self::table(), ['INSERT INTO s.t (id) VALUES (1)', 'SELECT o.id FROM s.o']));
        self::assertSame(['unused-table'], array_map(static fn (LayoutFinding $one): string => $one->rule, $found));
        self::assertSame(['written by', '1 statement'], $found[0]->evidence[1]);
    }

    public function test_a_table_in_order_is_left_alone(): void
    {
        self::assertSame(
            [],
            HouseRules::check(
                self::case(self::table(), ["SELECT t.id, t.day, t.word, t.amount, t.other FROM s.t t WHERE t.day >= date '2026-11-01'"]),
            ),
        );
        self::assertSame([], HouseRules::check(self::case(self::table(rows: []), ['SELECT * FROM s.t t'])), 'an empty one too');
    }

    public function test_partitions_that_let_more_be_skipped_than_they_cost_are_no_trouble(): void
    {
        $table = self::table(rows: array_fill(0, 80, 400), chunkRows: 30_000, partitioned: true);
        $found = static fn (string $where): array => array_values(
            array_filter(
                HouseRules::check(self::case($table, ["SELECT t.id, t.day, t.word, t.amount, t.other FROM s.t t{$where}"])),
                static fn ($f): bool => $f->rule === 'too-many-partitions',
            ),
        );
        self::assertCount(1, $found(''));
        self::assertSame([], $found(' WHERE t.id BETWEEN 5000 AND 5400'), 'one of eighty is read instead of all');
    }

    public function test_thresholds_decide(): void
    {
        $case = self::case(self::table(rows: [40_000, 25_000, 25_000, 25_000], distribution: Distribution::hash('id')), [
            "SELECT t.id, t.day, t.word, t.amount, t.other FROM s.t t WHERE t.day >= date '2026-11-01'",
        ]);
        self::assertSame([], HouseRules::check($case));
        $found = HouseRules::check($case, ['skew' => ['skew' => 1.2]]);
        self::assertSame('skew', $found[0]->rule ?? null);
        self::assertGreaterThan(0, $found[0]->weightUs);
    }

    public function test_what_statements_pay_adds_up_to_the_weight_and_doubles_with_their_executions(): void
    {
        $table = self::table(rows: [40_000, 25_000, 25_000, 25_000], distribution: Distribution::hash('id'));
        $statements = [
            "SELECT t.id, t.day, t.word FROM s.t t WHERE t.day >= date '2026-11-01'",
            'SELECT t.id FROM s.t t',
            'SELECT count(*) FROM s.t t',
        ];
        $case = self::case($table, $statements);
        $found = HouseRules::check($case, ['skew' => ['skew' => 1.2]])[0];
        self::assertSame('skew', $found->rule);
        self::assertCount(2, $found->byStatementUs, 'one reads no column');
        self::assertEqualsWithDelta($found->weightUs, array_sum($found->byStatementUs), 1e-6 * $found->weightUs);
        $twice = HouseRules::check(self::case($table, $statements, 2.0), ['skew' => ['skew' => 1.2]])[0];
        foreach ($found->byStatementUs as $statement => $us) {
            self::assertEqualsWithDelta(2 * $us, $twice->byStatementUs[$statement], 1e-6 * $us);
        }
    }

    public function test_limits_are_where_the_documents_say(): void
    {
        $limits = [];
        foreach (HouseRules::all() as $id => $rule) {
            $limits[$id] = array_map(static fn (array $limit): float => (float) $limit[0], $rule->thresholds());
        }
        self::assertSame(
            [
                'copied-large' => ['rows' => 2e7],
                'skew' => ['skew' => 1.5, 'rows' => 2e4],
                'poor-order' => ['gain' => 0.7, 'rows' => 2e4],
                'tiny-chunks' => ['share' => 0.5, 'saved' => 50.0],
                'too-many-partitions' => ['partitions' => 12.0, 'rows' => 1000.0],
                'hidden-column' => ['executions' => 5.0],
                'missing-statistics' => ['executions' => 5.0],
                'stale-statistics' => ['days' => 7.0, 'changed' => 0.2],
                'join-types' => ['executions' => 5.0],
                'nullable-join-key' => ['executions' => 50.0],
                'wide-key' => ['bytes' => 24.0, 'rows' => 2e4],
                'unused-table' => ['rows' => 1.0],
                'unused-columns' => ['share' => 0.05],
                'expired-versions' => ['days' => 7.0, 'keep' => 2.0, 'share' => 0.2],
                'orphan-files' => ['files' => 1.0],
                'repeated-groups' => ['executions' => 100.0, 'hours' => 0.01, 'space' => 0.25],
                'joined-to-filter' => ['executions' => 20.0, 'hours' => 0.001],
            ],
            $limits,
        );
    }

    /**
     * @param  callable(): array{TableLayout, list<string>}  $make
     */
    #[DataProvider('broken')]
    public function test_each_limit_by_itself_can_keep_its_rule_silent(string $rule, callable $make): void
    {
        [$table, $statements] = $make();
        $case = self::case($table, $statements);
        foreach (array_keys(HouseRules::all()[$rule]->thresholds()) as $limit) {
            $found = static fn (float $value): bool => in_array(
                $rule,
                array_map(static fn ($f): string => $f->rule, HouseRules::check($case, [$rule => [$limit => $value]])),
                true,
            );
            self::assertNotSame($found(0.0), $found(1e15), "{$limit} of {$rule}");
        }
    }

    /**
     * @param  callable(): array{TableLayout, list<string>}  $make
     */
    #[DataProvider('broken')]
    public function test_the_order_of_statements_changes_nothing_and_twice_as_many_runs_weigh_twice(string $rule, callable $make): void
    {
        [$table, $statements] = $make();
        $one = HouseRules::check(self::case($table, $statements));
        self::assertEquals($one, HouseRules::check(self::case($table, array_reverse($statements))));
        foreach (HouseRules::check(self::case($table, $statements, 2.0)) as $i => $twice) {
            self::assertSame($rule, $twice->rule);
            self::assertEqualsWithDelta(2 * $one[$i]->weightUs, $twice->weightUs, 1e-6 * max(1.0, $one[$i]->weightUs));
            self::assertSame($one[$i]->statements, $twice->statements, 'what fixes it is the same');
        }
    }

    public function test_every_rule_has_its_reason_and_guidance(): void
    {
        foreach (HouseRules::all() as $id => $rule) {
            self::assertMatchesRegularExpression('~^[a-z-]+$~', $id);
            self::assertGreaterThan(30, strlen($rule->reason()));
            self::assertNotSame([], $rule->guidance());
            foreach ($rule->thresholds() as [$value, $meaning]) {
                self::assertGreaterThanOrEqual(0, $value);
                self::assertNotSame('', $meaning);
            }
        }
    }

    /**
     * @param  list<int>  $rows of each chunk, dealt to four nodes
     * @param  list<string>  $clustering
     */
    private static function table(
        array $rows = [30_000, 30_000, 30_000, 30_000],
        ?Distribution $distribution = null,
        ?int $node = null,
        int $chunkRows = 30_000,
        bool $partitioned = false,
        array $clustering = [],
        bool $statistics = true,
        int $ageUs = self::DAY_US,
        float $changed = 0.0,
        string $word = 'oak',
        bool $versions = false,
        int $orphans = 0,
        int $rowFactor = 1000,
    ): TableLayout {
        $type = ColumnType::of(...);
        $columns = [
            new Column('id', $type(TypeKind::Bigint), false),
            new Column('day', $type(TypeKind::Date), false),
            new Column('word', $type(TypeKind::Text), false),
            new Column('amount', $type(TypeKind::Double)),
            new Column('other', $type(TypeKind::Bigint)),
        ];
        $chunks = [];
        foreach ($rows as $i => $count) {
            $chunks[] = new Chunk("c{$i}", $node ?? $i % 4, $partitioned ? (string) $i : '', $count, $count * 2, [
                new ZoneMap($i * 1000, $i * 1000 + 999, 0, $count, intdiv($count, 4)),
                new ZoneMap(20_700 + ($i % 4) * 20, 20_719 + ($i % 4) * 20, 0, $count, intdiv($count, 4)),
                new ZoneMap($word, $word, 0, $count, intdiv($count, 4)),
                new ZoneMap(0.0, 9.0, 0, $count, intdiv($count, 4)),
                new ZoneMap(0, 9, 0, $count, intdiv($count, 4)),
            ]);
        }
        $known = array_fill_keys(['id', 'day', 'word', 'amount', 'other'], ['distinct' => 5, 'nullShare' => 0.0]);

        return new TableLayout(
            's.t',
            new TableDefinition(
                $columns,
                $distribution ?? Distribution::even(),
                $partitioned ? new Partitioning('id', 1000) : null,
                $clustering,
                $chunkRows,
            ),
            4,
            $chunks,
            $rowFactor,
            null,
            statistics: new LayoutStatistics($statistics ? $known : [], $statistics ? $ageUs : null, $changed),
            history: new LayoutHistory(3, $versions
                ? [
                    ['version' => 1, 'writtenUs' => self::NOW_US - 30 * self::DAY_US, 'bytesAlone' => 900_000, 'files' => 4],
                    ['version' => 2, 'writtenUs' => self::NOW_US - 20 * self::DAY_US, 'bytesAlone' => 0, 'files' => 0],
                ]
                : [], $orphans, $orphans * 100),
        );
    }

    /**
     * @param  list<string>  $statements
     */
    private static function case(TableLayout $table, array $statements, float $times = 1.0): TableCase
    {
        $other = new TableLayout(
            's.o',
            new TableDefinition([new Column('id', ColumnType::of(TypeKind::Bigint), false)], Distribution::copy()),
            4,
            [],
            1000,
        );
        $types = array_map(
            static fn (TableLayout $one): array => array_combine(
                array_map(static fn (Column $c): string => $c->name, $one->definition->columns),
                array_map(static fn (Column $c): ColumnType => $c->type, $one->definition->columns),
            ),
            ['s.t' => $table, 's.o' => $other],
        );
        $reader = new UseReader($types);
        $workload = array_map(
            static fn (string $sql): StatementUse => new StatementUse(
                hash('xxh128', $sql),
                $times * 100.0,
                $times * 1e8,
                $times * 1e9,
                $reader->read($sql, 's') ?? self::fail($sql),
                $sql,
                '',
                's',
            ),
            $statements,
        );
        $sample = ['id' => [], 'day' => [], 'word' => [], 'amount' => [], 'other' => []];
        foreach ($table->chunks as $chunk) {
            for ($i = 0; $i < 3; $i++) {
                $sample['id'][] = (int) $chunk->zones[0]->min + intdiv($i * ((int) $chunk->zones[0]->max - (int) $chunk->zones[0]->min), 2);
                $sample['day'][] = (int) $chunk->zones[1]->min + $i;
                $sample['word'][] = (string) $chunk->zones[2]->min;
                $sample['amount'][] = 1.0;
                $sample['other'][] = 1;
            }
        }

        return new TableCase(
            $table,
            new Estate(
                ['s.t' => $table, 's.o' => $other],
                new Workload($workload),
                new ClusterRates(1.0, 0.1, 0.1),
                self::NOW_US,
            ),
            new Sample($sample, max(1, $table->rows())),
        );
    }
}
