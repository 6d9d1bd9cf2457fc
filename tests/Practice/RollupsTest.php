<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Proofs\RowsDigest;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\TableCopy;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\Switches;
use Fulcrion\Practice\WarehouseError;
use Fulcrion\Tools\Answers\RollupWorld;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Rollups and lookups: the same answers with less to read, whatever happens to the tables.
 */
final class RollupsTest extends WarehouseTestCase
{
    private RollupWorld $world;

    protected function setUp(): void
    {
        parent::setUp();
        $this->warehouse->destroy();
        $this->warehouse = Warehouse::create($this->root, 'Test', 4, new HardwareProfile(2, 1000, 100_000_000, 1_000_000, 1_000_000, 10));
        $this->engine = new Engine($this->warehouse);
        $this->world = new RollupWorld(new Randomizer(new Mt19937(7)));
        foreach ($this->world->tables(3000) as $sql) {
            $this->sql($sql);
        }
    }

    public function test_statements_at_random_are_answered_alike_with_and_without_while_the_tables_change(): void
    {
        foreach ($this->world->rollups() as $sql) {
            $this->sql($sql);
        }
        $used = ['rollup' => 0, 'lookup' => 0];
        for ($i = 0; $i < 220; $i++) {
            if ($i % 8 === 7) {
                $this->sql($this->world->change($i));
            }
            $sql = $this->world->query();
            $plan = $this->planOf($sql);
            self::assertSame($this->digest($sql, false), $this->digest($sql, true), $sql.' with '.implode('; ', $plan->remarks));
            foreach (array_keys($used) as $kind) {
                $used[$kind] += (int) preg_match("~{$kind} \S+ used in place~", implode(';', $plan->remarks));
            }
        }
        self::assertGreaterThan(25, $used['rollup']);
        self::assertGreaterThan(25, $used['lookup']);
    }

    public function test_a_rollup_stays_right_through_inserts_updates_and_deletes_and_only_what_was_touched_is_computed(): void
    {
        for ($i = 0; $i < 14; $i++) {
            $this->sql($this->world->insert(500, 10_000 + 500 * $i));
        }
        $this->sql('MAINTAIN TABLE s.reading WITH (action = compact)');
        $this->sql(
            "CREATE ROLLUP s.by_bay AS SELECT kind, date_trunc('day', at) AS day, sum(value), avg(value) FROM s.reading GROUP BY kind, "
                ."date_trunc('day', at)",
        );
        $sql = "SELECT kind, sum(value), avg(value), count(*) FROM s.reading WHERE at >= date '2026-02-01' GROUP BY kind";
        self::assertSame([], $this->missing('s.by_bay'));
        foreach (
            [
                $this->world->insert(500, 900_000),
                "UPDATE s.reading SET value = value + 5 WHERE at >= date '2026-02-10' AND at < date '2026-02-12'",
                "DELETE FROM s.reading WHERE at >= date '2026-02-14' AND at < date '2026-02-16'",
            ] as $change
        ) {
            $this->sql($change);
            self::assertNotSame([], $this->missing('s.by_bay'), 'it knows that it is behind');
            self::assertStringContainsString(
                'among them those of',
                implode(';', $this->planOf($sql)->remarks),
                'it is used together with what came',
            );
            self::assertSame($this->digest($sql, false), $this->digest($sql, true), $change);
        }
        $message = $this->sql('REFRESH ROLLUP s.by_bay')->message;
        self::assertMatchesRegularExpression('~chunks in \d parts of s.reading were computed, the rest kept~', $message);
        self::assertSame($this->digest($sql, false), $this->digest($sql, true));
        $this->sql('DELETE FROM s.reading WHERE at >= date \'2026-03-20\' AND at < date \'2026-03-21\'');
        self::assertStringContainsString(
            'in 1 parts',
            $this->sql('REFRESH ROLLUP s.by_bay')->message,
            'only the month that lost rows is computed',
        );
        self::assertStringContainsString('up to its tables already', $this->sql('REFRESH ROLLUP s.by_bay')->message);
    }

    public function test_ends_of_a_range_within_a_unit_are_read_from_the_table(): void
    {
        $this->sql('CREATE TABLE s.wide (at timestamp, kind text, value bigint) PLACED EVENLY SORTED BY (at) CHUNKS OF 40 ROWS');
        $this->sql('INSERT INTO s.wide SELECT at, kind, value FROM s.reading');
        $this->sql("INSERT INTO s.wide VALUES (NULL, 'warm', 7)");
        $this->sql('MAINTAIN TABLE s.wide WITH (action = compact)');
        foreach (['day', 'week', 'month', 'quarter', 'year'] as $unit) {
            $this->sql(
                "CREATE OR REPLACE ROLLUP s.units AS SELECT kind, date_trunc('{$unit}', at) AS at_unit, sum(value) FROM s.wide GROUP BY "
                    ."kind, date_trunc('{$unit}', at)",
            );
            $used = 0;
            foreach (range(1, 24) as $i) {
                // Whole days, inclusive midnights, and moments to the microsecond.
                $moment = fn (int $from, int $to): string => "timestamp '".
                    gmdate($i % 3 === 0 ? 'Y-m-d 00:00:00' : 'Y-m-d H:i:s', mt_rand($from, $to)).
                    ($i % 3 === 1 ? '.000001' : '').
                    "'";
                [$low, $high] = [
                    $moment(1_767_225_600 - 40_000_000, 1_767_225_600 + 45 * 86_400),
                    $moment(1_767_225_600 + 45 * 86_400, 1_767_225_600 + 70_000_000),
                ];
                $where = ["at BETWEEN {$low} AND {$high}", "at >= {$low} AND at < {$high}", "{$low} < at", "at <= {$high}"][$i % 4];
                $sql = "SELECT kind, sum(value), count(*) FROM s.wide WHERE {$where} GROUP BY kind";
                $remarks = implode('; ', $this->planOf($sql)->remarks);
                $used += (int) str_contains($remarks, "that fill no whole {$unit}");
                self::assertSame($this->digest($sql, false), $this->digest($sql, true), "{$sql} with {$remarks}");
                if ($i === 12) {
                    $this->sql("INSERT INTO s.wide SELECT at, kind, value FROM s.reading WHERE at >= date '2026-03-20'");
                    $this->sql("DELETE FROM s.wide WHERE at >= date '2026-01-04' AND at < date '2026-01-05'");
                }
            }
            self::assertGreaterThan(0, $used, $unit);
        }
    }

    public function test_both_sides_of_a_join_come_from_rollups_whichever_is_taken_first(): void
    {
        for ($i = 0; $i < 8; $i++) {
            $this->sql($this->world->insert(500, 20_000 + 500 * $i));
            $this->sql("INSERT INTO s.visit SELECT id + {$i} * 1000 + 1000, bay, at, mood, length FROM s.visit WHERE id <= 500");
        }
        foreach (['reading', 'visit'] as $table) {
            $this->sql("ANALYZE s.{$table}");
            $this->sql(
                "CREATE ROLLUP s.of_{$table} AS SELECT bay, cast(at AS date) AS day, ".
                    ($table === 'visit' ? 'mood, avg(length)' : 'kind, avg(value), sum(amount)').
                    " FROM s.{$table} GROUP BY bay, cast(at AS date), ".
                    ($table === 'visit' ? 'mood' : 'kind'),
            );
        }
        foreach (
            [
                'sum(r.value), sum(v.length)',
                'avg(r.value), avg(v.length), count(*)',
                'count(r.value), count(v.length), count(DISTINCT v.mood)',
                'sum(r.amount), max(v.mood), min(r.kind)',
            ] as $measures
        ) {
            $sql = "SELECT r.kind, v.mood, {$measures} FROM s.reading r JOIN s.visit v ON v.bay = r.bay AND cast(v.at AS date) = "
                ."cast(r.at AS date) WHERE r.at >= date '2026-01-12' GROUP BY r.kind, v.mood";
            $remarks = implode('; ', $this->planOf($sql)->remarks);
            self::assertStringContainsString('s.of_reading used', $remarks, $sql);
            self::assertStringContainsString('s.of_visit used', $remarks, $sql);
            self::assertSame($this->digest($sql, false), $this->digest($sql, true), "{$sql} with {$remarks}");
        }
    }

    public function test_chunks_that_are_only_written_anew_leave_a_rollup_fresh(): void
    {
        $this->sql('CREATE ROLLUP s.by_bay AS '.RollupWorld::ROLLUPS['daily']);
        foreach (
            [
                'action = compact',
                "action = encode, compression = gzip9, encodings = 'at:delta', sorted_by = 'kind, at'",
                'action = revert, version = '.((int) $this->warehouse->table('s', 'reading')?->manifest()->version + 1),
            ] as $maintenance
        ) {
            $this->sql("MAINTAIN TABLE s.reading WITH ({$maintenance})");
            self::assertSame([], $this->missing('s.by_bay'), $maintenance);
            self::assertSame(
                $this->digest('SELECT kind, count(*), max(value) FROM s.reading GROUP BY kind', false),
                $this->digest('SELECT kind, count(*), max(value) FROM s.reading GROUP BY kind', true),
            );
        }
    }

    public function test_the_plan_says_why_a_rollup_is_not_used(): void
    {
        $this->sql('CREATE ROLLUP s.by_bay WITH (stale = skip) AS '.RollupWorld::ROLLUPS['daily']);
        $this->sql('CREATE ROLLUP s.by_house AS '.RollupWorld::ROLLUPS['by_house']);
        $remarks = fn (string $sql): string => implode('; ', $this->planOf($sql)->remarks);
        foreach (
            [
                'SELECT kind, count(DISTINCT note) FROM s.reading GROUP BY kind' => 'has to be exact, and it keeps a sketch at most',
                "SELECT kind, sum(value) FROM s.reading WHERE at BETWEEN timestamp '2026-02-10 06:00:00' AND timestamp '2026-02-10 "
                    ."18:00:00' GROUP BY kind" => 'it does not tell at',
                "SELECT kind, sum(value) FROM s.reading WHERE at > timestamp '2026-02-10 06:00:00' AND at >= timestamp '2026-02-10 "
                    ."07:00:00' GROUP BY kind" => 'it does not tell at',
                'SELECT kind, sum(amount) FROM s.reading GROUP BY kind' => 'it does not keep sum(amount)',
                'SELECT note, sum(value) FROM s.reading GROUP BY note' => 'it is not grouped by note',
                'SELECT a.kind, sum(a.value) FROM s.reading a LEFT JOIN s.bay b ON b.id = a.bay GROUP BY a.kind' => 'joined in another '
                    .'way than by an inner join',
                'SELECT kind, sum(value) FROM s.reading GROUP BY kind' => 'it also joins s.bay',
            ] as $sql => $why
        ) {
            self::assertStringContainsString($why, $remarks($sql), $sql);
        }
        $this->sql($this->world->insert(1, 999_999));
        self::assertStringContainsString('told not to be used then', $remarks('SELECT kind, sum(value) FROM s.reading GROUP BY kind'));
        $this->sql("UPDATE s.bay SET house = 'h9' WHERE id = 1");
        self::assertStringContainsString(
            's.bay was changed since it was refreshed',
            $remarks('SELECT b.house, sum(r.amount) FROM s.reading r JOIN s.bay b ON b.id = r.bay GROUP BY b.house'),
        );
    }

    public function test_distinct_counts_fold_as_sketches_within_their_error(): void
    {
        $this->sql('CREATE ROLLUP s.by_bay AS '.RollupWorld::ROLLUPS['daily']);
        [[$kind, $about]] = $this->rows("SELECT kind, approx_count_distinct(note) FROM s.reading WHERE kind = 'warm' GROUP BY kind");
        [[$exact]] = $this->rows("SELECT count(DISTINCT note) FROM s.reading WHERE kind = 'warm'");
        self::assertSame('warm', $kind);
        self::assertEqualsWithDelta($exact, $about, 0.05 * (int) $exact);
        self::assertStringContainsString(
            'used in place',
            implode(
                ';',
                $this->planOf("SELECT kind, approx_count_distinct(note) FROM s.reading WHERE kind = 'warm' GROUP BY kind")->remarks,
            ),
        );
    }

    public function test_what_cannot_be_a_rollup_is_refused_with_the_reason(): void
    {
        foreach (
            [
                'SELECT kind, count(DISTINCT note) FROM s.reading GROUP BY kind' => 'Use approx_count_distinct',
                'SELECT kind, sum(value) FROM s.reading WHERE at < now() GROUP BY kind' => 'leave out now()',
                'SELECT kind, sum(value) FROM s.reading GROUP BY kind ORDER BY kind' => 'no order and no limit',
                'SELECT sum(value) FROM s.reading' => 'GROUP BY groups',
                'SELECT kind, sum(value) FROM s.reading GROUP BY kind HAVING sum(value) > 3' => 'without HAVING',
                'SELECT kind, sum(value) FROM reading GROUP BY kind' => 'Write the schema in front of reading',
            ] as $sql => $why
        ) {
            $this->assertRefused("CREATE ROLLUP s.no AS {$sql}", $why);
        }
        $this->sql('CREATE ROLLUP s.by_bay AS '.RollupWorld::ROLLUPS['daily']);
        $this->assertRefused('CREATE ROLLUP s.by_bay AS '.RollupWorld::ROLLUPS['daily'], 'already a rollup s.by_bay');
        // Nobody reads it by its name, whatever the policy says of its table.
        $this->assertRefused('SELECT * FROM s.by_bay', 'There is no table s.by_bay');
        $this->sql('DROP ROLLUP s.by_bay');
        $this->assertRefused('DROP ROLLUP s.by_bay', 'There is no rollup s.by_bay');
        self::assertSame([], $this->warehouse->rollupBook()->rollups());
    }

    public function test_a_lookup_turns_the_filter_of_a_dimension_into_one_on_the_larger_table(): void
    {
        $sql = 'SELECT r.kind, count(*) FROM s.reading r JOIN s.calendar c ON c.day = cast(r.at AS date) WHERE c.week = 10 GROUP BY r.kind';
        $before = $this->steps($this->planOf($sql), StepKind::Scan);
        $rows = $this->rows($sql);
        $this->sql('CREATE LOOKUP s.days WITH (key = day) AS SELECT day, week, season FROM s.calendar');
        $plan = $this->planOf($sql);
        $after = $this->steps($plan, StepKind::Scan);
        self::assertCount(1, $after, 'the calendar is not read');
        self::assertLessThan(
            0.5 * $this->read($before, 's.reading'),
            $this->read($after, 's.reading'),
            'chunks of other weeks are not opened',
        );
        self::assertStringContainsString('7 of its 161 keys meet the filter, 2026-02-09 to 2026-02-15', implode(';', $plan->remarks));
        self::assertEqualsCanonicalizing($rows, $this->rows($sql));
        $this->sql("UPDATE s.calendar SET week = 10 WHERE day = DATE '2026-03-01'");
        self::assertSame($this->digest($sql, false), $this->digest($sql, true), 'made anew when its table changed');
        $this->sql("INSERT INTO s.calendar VALUES (DATE '2026-03-01', 99, 'twice')");
        self::assertSame($this->digest($sql, false), $this->digest($sql, true));
        self::assertStringContainsString('the key day of s.calendar is not unique', $remarks = implode(';', $this->planOf($sql)->remarks));
        self::assertStringNotContainsString('2026-03-01', $remarks, 'a plan shows no value of a table');
    }

    public function test_lookups_are_refused_where_the_key_repeats_or_memory_is_short(): void
    {
        $this->assertRefused(
            'CREATE LOOKUP s.no WITH (key = week) AS SELECT week, day FROM s.calendar',
            'The key week of s.calendar is not unique. A lookup',
            'is not unique: 0 (7 times)',
        );
        $this->assertRefused('CREATE LOOKUP s.no WITH (key = day) AS SELECT week FROM s.calendar', 'has to be among the columns');
        $this->assertRefused('CREATE LOOKUP s.no AS SELECT day, week FROM s.calendar', 'takes the option key');
        $this->assertRefused('CREATE LOOKUP s.no WITH (key = id) AS SELECT id, value FROM s.reading WHERE id < 5', 'with nothing else');
        $small = Warehouse::create($this->root.'-small', 'Small', 2, new HardwareProfile(2, 1000, 100_000, 1_000_000, 1_000_000, 10));
        $small->createSchema('s');
        (new TableCopy($small))->copy(
            $this->warehouse->table('s', 'calendar') ?? self::fail('no table'),
            $this->warehouse,
            ['s', 'calendar'],
            1.0,
            self::NOW,
            static function (): void {
            },
        );
        try {
            (new Engine($small))->run(
                'CREATE LOOKUP s.days WITH (key = day) AS SELECT day, week FROM s.calendar',
                new Session('s', 't', self::NOW),
                $this->limits(),
            );
            self::fail('it has no room');
        } catch (WarehouseError $error) {
            self::assertStringContainsString('Take fewer columns, or drop another lookup', $error->getMessage());
        } finally {
            $small->destroy();
        }
    }

    public function test_uses_and_upkeep_are_counted_by_day(): void
    {
        $this->sql('CREATE ROLLUP s.by_bay AS '.RollupWorld::ROLLUPS['daily']);
        $this->rows('SELECT kind, sum(value) FROM s.reading GROUP BY kind');
        $rollup = $this->warehouse->rollupBook()->rollup('s', 'by_bay') ?? self::fail('no rollup');
        $uses = $this->warehouse->rollupBook()->uses($rollup)[gmdate('Y-m-d', intdiv(self::NOW, 1_000_000))];
        self::assertSame(1, $uses['uses']);
        self::assertGreaterThan(0, $uses['savedUs']);
        self::assertGreaterThan(0, $uses['keptUs']);
    }

    public function test_a_copied_table_keeps_its_rows_when_it_is_written_anew(): void
    {
        // Its chunks must not have names the copy will give to new ones.
        $other = Warehouse::create($this->root.'-other', 'Other', 2, new HardwareProfile());
        $other->createSchema('s');
        $from = $this->warehouse->table('s', 'reading') ?? self::fail('no table');
        for ($i = 0; $i < 3; $i++) {
            $this->sql($this->world->insert(40, 500_000 + $i));
        }
        (new TableCopy($other))->copy($from, $this->warehouse, ['s', 'reading'], 1.0, self::NOW, static function (): void {
        });
        $engine = new Engine($other);
        foreach (['action = compact', 'action = encode, compression = none'] as $act) {
            $engine->run("MAINTAIN TABLE s.reading WITH ({$act})", new Session('s', 't', self::NOW), $this->limits());
            self::assertSame($from->checksum(), $other->table('s', 'reading')?->checksum(), $act);
        }
        $other->destroy();
    }

    public function test_rewrites_can_be_left_out_and_change_nothing_but_the_way(): void
    {
        foreach (
            [
                "SELECT b.house, count(*), sum(r.value) FROM s.reading r JOIN s.bay b ON b.id = r.bay WHERE r.at >= date '2026-02-01' "
                    ."AND b.house <> 'h1' GROUP BY b.house",
                "SELECT kind, count(*) FROM s.reading WHERE bay IN (SELECT id FROM s.bay WHERE house = 'h2') GROUP BY kind",
            ] as $sql
        ) {
            $whole = $this->digest($sql, true);
            foreach (array_keys(Switches::ALL) as $name) {
                $rows = $this->engine->with(new Switches([$name]))->run($sql, new Session('s', 't', self::NOW), $this->limits())->rows;
                self::assertSame($whole, self::digestOf($rows), "{$sql} without {$name}");
            }
        }
    }

    /**
     * @return list<mixed>
     */
    private function missing(string $path): array
    {
        [$schema, $name] = explode('.', $path);
        $rollup = $this->warehouse->rollupBook()->rollup($schema, $name) ?? self::fail('no rollup');

        return \Fulcrion\Practice\Rollups\Freshness::of(
            $rollup,
            $this->warehouse->table('s', 'reading')?->manifest() ?? self::fail('no table'),
        )[1];
    }

    private function assertRefused(string $sql, string $why, string $sealed = ''): void
    {
        try {
            $this->sql($sql);
            self::fail("not refused: {$sql}");
        } catch (WarehouseError $error) {
            self::assertStringContainsString($why, $error->getMessage(), $sql);
            self::assertStringContainsString($sealed, $error->sealed(), $sql);
        }
    }

    /**
     * @param  list<PlanStep>  $scans
     */
    private function read(array $scans, string $table): int
    {
        return array_sum(array_map(
            static fn (PlanStep $step): int => $step->table?->name === $table ? (int) $step->reads->bytes : 0,
            $scans,
        ));
    }

    private function digest(string $sql, bool $prepared): string
    {
        $engine = $prepared ? $this->engine : $this->engine->with(new Switches([Switches::ROLLUPS, Switches::LOOKUPS]));

        return self::digestOf($engine->run($sql, new Session('s', 't', self::NOW), $this->limits())->rows);
    }

    /**
     * @param  list<list<int|float|string|bool|null>>  $rows
     */
    private static function digestOf(array $rows): string
    {
        $digest = new RowsDigest();
        foreach ($rows as $row) {
            $digest->add($row);
        }

        return $digest->text();
    }
}
