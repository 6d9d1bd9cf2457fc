<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\Overlap;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\LayoutReader;
use Fulcrion\Practice\Storage\Manifest;
use Fulcrion\Practice\Storage\Paths;
use Fulcrion\Practice\Storage\TableCopy;
use Fulcrion\Practice\Storage\TableStore;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;
use PHPUnit\Framework\Attributes\DataProvider;

/**
 * What is done to how tables lie changes none of their rows, whatever happens on the way.
 */
final class TableMaintenanceTest extends WarehouseTestCase
{
    public function test_a_sample_reaches_from_the_first_row_of_a_chunk_to_its_last(): void
    {
        $this->sql('CREATE TABLE s.ordered (n bigint) PLACED EVERYWHERE CHUNKS OF 1000 ROWS');
        $ten = 'VALUES '.implode(', ', array_map(static fn (int $i): string => "({$i})", range(0, 49)));
        $this->sql("INSERT INTO s.ordered SELECT a.x * 50 + b.x FROM ({$ten}) a (x) CROSS JOIN ({$ten}) b (x)");
        $table = $this->warehouse->table('s', 'ordered') ?? self::fail();
        $rows = array_map(static fn (int $i): int => ($i % 50) * 50 + intdiv($i, 50), range(0, 2_499));
        $place = array_flip($rows);
        foreach ([10, 100, 2_000, 2_400, 2_500, 9_000] as $asked) {
            $places = array_map(static fn (mixed $value): int => $place[(int) $value], LayoutReader::sample($table, $asked)->column('n'));
            self::assertEqualsWithDelta(min(2_500, $asked), count(array_unique($places)), 3, "{$asked} asked");
            self::assertCount(count($places), array_unique($places));
            // No stretch much longer than what lies between two of them is left out, and they do not fall in step with the fifty.
            self::assertLessThanOrEqual(
                (4 * 2_500) / count($places),
                max(array_map(static fn (int $a, int $b): int => $b - $a, array_slice($places, 0, -1), array_slice($places, 1))),
            );
            self::assertLessThan((3 * 2_500) / $asked + 3, 2_500 - max($places));
            self::assertGreaterThanOrEqual(
                $asked < 100 ? 3 : 25,
                count(array_unique(array_map(static fn (int $at): int => $at % 50, $places))),
            );
        }
    }

    public function test_outlines_say_what_the_whole_layouts_say(): void
    {
        $this->sql('CREATE TABLE s.spread (n bigint, grade text, at timestamp) PLACED BY (n) CUT BY MONTH OF at CHUNKS OF 1024 ROWS');
        $this->sql('CREATE TABLE s.skewed (n bigint, grade text) PLACED BY (grade) CHUNKS OF 1024 ROWS');
        $this->sql('CREATE TABLE s.copied (n bigint) PLACED EVERYWHERE');
        $this->sql('CREATE TABLE s.bare (n bigint)');
        $ten = 'VALUES '.implode(', ', array_map(static fn (int $i): string => "({$i})", range(0, 49)));
        $this->sql(
            "INSERT INTO s.spread SELECT a.x * 50 + b.x, 'g', timestamp '2026-01-01 00:00:00' + INTERVAL b.x DAY FROM ({$ten}) a (x) "
                ."CROSS JOIN ({$ten}) b (x)",
        );
        $this->sql("INSERT INTO s.skewed SELECT n, CASE WHEN n < 2400 THEN 'A' ELSE 'B' END FROM s.spread");
        $this->sql('INSERT INTO s.copied SELECT n FROM s.spread WHERE n < 700');
        $this->sql('INSERT INTO s.skewed VALUES (1, \'C\')');
        // Once as they are first worked out, once as they were kept beside the table, once after a change.
        foreach ([1, 2, 3] as $time) {
            $layouts = LayoutReader::all($this->warehouse, self::NOW);
            $outlines = LayoutReader::outlines($this->warehouse);
            self::assertSame(array_keys($layouts), array_keys($outlines));
            self::assertCount(4, $layouts);
            foreach ($layouts as $name => $layout) {
                $outline = $outlines[$name];
                self::assertSame(
                    [
                        $layout->rows(),
                        $layout->storedBytes(),
                        count($layout->chunks),
                        $layout->smallShare(),
                        $layout->skew(),
                        count($layout->partitions()),
                        $layout->rowFactor,
                    ],
                    [
                        $outline->rows,
                        $outline->storedBytes,
                        $outline->chunks,
                        $outline->smallShare(),
                        $outline->skew(),
                        $outline->partitions,
                        $outline->rowFactor,
                    ],
                    "{$name}, time {$time}",
                );
            }
            self::assertGreaterThan(0.0, $outlines['s.skewed']->smallShare());
            self::assertGreaterThan(1.5, $outlines['s.skewed']->skew());
            if ($time === 2) {
                $this->sql('DELETE FROM s.spread WHERE n % 3 = 0');
            }
        }
    }

    public function test_compaction_keeps_rows_nodes_and_partitions_and_can_be_taken_back(): void
    {
        $table = $this->scattered('PLACED BY (k) CUT EVERY 500 OF n CHUNKS OF 200 ROWS');
        $before = $table->manifest();
        $sum = $table->checksum();
        self::assertSame(0, $this->sql('MAINTAIN TABLE t WITH (action = compact, dry = run)')->rowsAffected <=> count($before->chunks));
        self::assertSame($before->version, $table->manifest()->version, 'a dry run writes nothing');
        $this->sql('MAINTAIN TABLE t WITH (action = compact)');
        $after = $table->manifest();
        self::assertLessThan(count($before->chunks) / 4, count($after->chunks));
        self::assertSame($sum, $table->checksum());
        $places = static fn (Manifest $m): array => self::sorted(
            array_reduce(
                $m->chunks,
                static function (array $rows, Chunk $c): array {
                    $rows["{$c->node}|{$c->partition}"] = ($rows["{$c->node}|{$c->partition}"] ?? 0) + $c->rows;

                    return $rows;
                },
                [],
            ),
        );
        self::assertSame($places($before), $places($after));

        // Rows that come later survive taking it back.
        $this->sql('INSERT INTO t VALUES (5000, 1, \'late\', NULL)');
        $this->sql("MAINTAIN TABLE t WITH (action = revert, version = {$before->version})");
        self::assertCount(count($before->chunks) + 1, $table->manifest()->chunks);
        self::assertSame([[1001, 1]], $this->rows("SELECT count(*), sum(CASE WHEN word = 'late' THEN 1 ELSE 0 END) FROM t"));
        // But not when chunks it made were written anew since.
        $this->sql('MAINTAIN TABLE t WITH (action = compact)');
        $version = $table->manifest()->version - 1;
        $this->sql('DELETE FROM t WHERE n < 900');
        $this->expectException(WarehouseError::class);
        $this->expectExceptionMessage('nothing was changed');
        $this->sql("MAINTAIN TABLE t WITH (action = revert, version = {$version})");
    }

    public function test_ordering_sorts_what_is_out_of_order_and_later_rows_keep_queries_fast(): void
    {
        $table = $this->scattered('SORTED BY (n) CHUNKS OF 100 ROWS');
        $this->sql('MAINTAIN TABLE t WITH (action = sort)');
        $depth = fn (): int => max(
            array_map(
                fn (int $node): int => Overlap::of(LayoutReader::of($this->warehouse, $table, self::NOW), 'n', $node)->maxDepth,
                range(0, 3),
            ),
        );
        self::assertSame(1, $depth());
        $read = fn (): int => array_sum(
            array_map(
                static fn ($step): int => $step->reads->chunks ?? 0,
                $this->steps($this->planOf('SELECT sum(k) FROM t WHERE n BETWEEN 100 AND 140'), \Fulcrion\Core\Plans\StepKind::Scan),
            ),
        );
        $ordered = $read();
        $kept = array_map(static fn (Chunk $c): string => $c->file, $table->manifest()->chunks);
        for ($i = 0; $i < 40; $i++) {
            $this->sql("INSERT INTO t VALUES ({$i}, 1, 'late', NULL), (".(900 + $i).", 2, 'late', NULL)");
        }
        self::assertGreaterThan($ordered, $read());
        $this->sql('MAINTAIN TABLE t WITH (action = sort)');
        self::assertSame(1, $depth());
        self::assertLessThanOrEqual($ordered + 1, $read());
        self::assertSame([[1080]], $this->rows('SELECT count(*) FROM t'));
        self::assertSame('Nothing of s.t needs to be put in order.', $this->sql('MAINTAIN TABLE t WITH (action = sort)')->message);
        self::assertNotSame([], $kept);
    }

    public function test_curves_order_rows_in_both_columns(): void
    {
        foreach (['zorder' => 'Z CURVE', 'hilbert' => 'CURVE'] as $curve => $words) {
            $this->numbers($curve, 2000, "SORTED BY {$words} (n, k) CHUNKS OF 100 ROWS PLACED EVERYWHERE");
            $this->sql(
                "CREATE TABLE {$curve}_all SORTED BY {$words} (n, k) CHUNKS OF 100 ROWS PLACED EVERYWHERE AS SELECT * FROM {$curve}",
            );
            $plan = $this->planOf("SELECT count(*) FROM {$curve}_all WHERE k = 3");
            $scan = $this->steps($plan, \Fulcrion\Core\Plans\StepKind::Scan)[0];
            self::assertLessThan((int) $scan->reads->chunksTotal / 2, $scan->reads->chunks, $curve);
        }
        $this->expectExceptionMessage('a curve runs through two columns');
        $this->sql('CREATE TABLE bad (a bigint, b bigint) SORTED BY CURVE (a)');
    }

    public function test_names_are_swapped_at_once_and_a_crash_between_is_finished(): void
    {
        $this->numbers('a', 10, '');
        $this->numbers('b', 20, '');
        $this->sql('RENAME TABLE a TO a_kept, b TO a');
        self::assertSame([[20], [10]], [...$this->rows('SELECT count(*) FROM a'), ...$this->rows('SELECT count(*) FROM a_kept')]);
        // The writing down was done, then the process died.
        $links = [];
        foreach (['a' => 'a_kept', 'a_kept' => 'a'] as $name => $other) {
            $links["schemas/s/{$name}"] = readlink("{$this->root}/schemas/s/{$other}");
        }
        file_put_contents("{$this->root}/renaming.json", json_encode($links));
        $again = Warehouse::open($this->root);
        self::assertFileDoesNotExist("{$this->root}/renaming.json");
        self::assertSame([10, 20], [$again->table('s', 'a')?->manifest()->rows(), $again->table('s', 'a_kept')?->manifest()->rows()]);
        $this->expectExceptionMessage('There is already a table or view s.a_kept.');
        $this->sql('ALTER TABLE a RENAME TO a_kept');
    }

    public function test_a_writer_that_waited_writes_to_the_table_that_has_the_name_now(): void
    {
        $this->numbers('t', 10, '');
        $this->numbers('fresh', 10, '');
        $old = $this->table('t');
        $engine = new Engine(Warehouse::open($this->root));
        $stale = new TableStore($old->directory, 's', 't', "{$this->root}/schemas/s/t");
        $this->sql('RENAME TABLE t TO t_kept, fresh TO t');
        try {
            $stale->exclusively(static fn (): bool => true);
            self::fail('the name belongs to another table');
        } catch (WarehouseError $moved) {
            self::assertStringContainsString('was replaced', $moved->getMessage());
        }
        $engine->run(
            "INSERT INTO s.t VALUES (99, 1, 'x', NULL)",
            new \Fulcrion\Practice\Sql\Session('s', 'tester', self::NOW),
            $this->limits(),
        );
        self::assertSame([[11]], $this->rows('SELECT count(*) FROM t'));
        self::assertSame([[10]], $this->rows('SELECT count(*) FROM t_kept'));
    }

    public function test_a_full_disk_leaves_the_table_as_it_was_and_nothing_behind(): void
    {
        $table = $this->scattered('CHUNKS OF 200 ROWS');
        $sum = $table->checksum();
        $files = fn (): array => array_map(basename(...), Paths::matching("{$table->directory}/*.parquet"));
        $before = $files();
        $next = $table->manifest()->version + 1;
        // The third chunk meets a device on which there is no room.
        symlink('/dev/full', "{$table->directory}/c{$next}-2.parquet.part");
        try {
            $this->sql('MAINTAIN TABLE t WITH (action = compact)');
            self::fail('there was no room');
        } catch (WarehouseError $full) {
            self::assertStringContainsString('The table is as it was.', $full->getMessage());
        }
        self::assertSame($sum, $table->checksum());
        self::assertSame($before, $files());
        $this->sql('MAINTAIN TABLE t WITH (action = compact)');
        self::assertSame($sum, $table->checksum());
    }

    public function test_stopping_by_hand_leaves_nothing_behind(): void
    {
        $table = $this->scattered('CHUNKS OF 200 ROWS');
        $version = $table->manifest()->version;
        $calls = 0;
        try {
            $this->sql(
                'MAINTAIN TABLE t WITH (action = compact)',
                $this->limits(
                    cancelled: static function () use (&$calls): bool {
                        return ++$calls > 2;
                    },
                ),
            );
            self::fail('it was stopped');
        } catch (\Fulcrion\Practice\Physical\StoppedRun $stopped) {
            self::assertTrue($stopped->byHand);
        }
        self::assertSame($version, $table->manifest()->version);
        self::assertSame([], $table->orphans(PHP_INT_MAX));
    }

    public function test_versions_expire_by_age_but_some_are_kept(): void
    {
        $table = $this->scattered('');
        $count = count($table->versions());
        foreach ($table->versions() as $version) {
            $manifest = $table->version($version);
            self::assertSame(
                [
                    'writtenUs' => $manifest->writtenUs,
                    'files' => array_column(array_map(static fn (Chunk $c): array => [$c->file, $c->bytes], $manifest->chunks), 1, 0),
                ],
                $table->outline($version),
                'read without making chunks of it',
            );
        }
        $history = LayoutReader::of($this->warehouse, $table, self::NOW, true)->history->versions;
        self::assertSame(range(1, $count - 1), array_column($history, 'version'));
        $this->sql('MAINTAIN TABLE t WITH (action = expire, days = 0, keep = 3)');
        self::assertCount(min(3, $count), $table->versions());
        self::assertSame([[1000]], $this->rows('SELECT count(*) FROM t'));
    }

    /**
     * @return iterable<string, array{int, float}>
     */
    public static function copies(): iterable
    {
        yield 'nodes fold onto each other' => [2, 1.0];
        yield 'rows are dealt anew' => [3, 1.0];
        yield 'a sample' => [2, 0.25];
    }

    #[DataProvider('copies')]
    public function test_a_table_is_copied_with_its_layout(int $nodes, float $share): void
    {
        $table = $this->scattered('PLACED BY (k) CHUNKS OF 200 ROWS');
        $this->sql('ANALYZE TABLE t');
        $other = Warehouse::create("{$this->root}-other", 'Other', $nodes, new HardwareProfile());
        try {
            $other->createSchema('x');
            $rows = (new TableCopy($other))->copy($table, $this->warehouse, ['x', 'copy'], $share, self::NOW, static function (): void {
            });
            $copy = $other->table('x', 'copy') ?? self::fail();
            self::assertSame($rows, $copy->manifest()->rows());
            self::assertEqualsWithDelta(1000 * $share, $rows, 60);
            if ($share === 1.0) {
                self::assertSame($table->checksum(), $copy->checksum());
            }
            self::assertNotNull($copy->statistics());
            $query = 'SELECT k, count(*) FROM copy GROUP BY k';
            $groups = (new Engine($other))->run($query, new \Fulcrion\Practice\Sql\Session('x', '', self::NOW), $this->limits())->rows;
            self::assertSame($rows, array_sum(array_column($groups, 1)));
        } finally {
            $other->destroy();
        }
    }

    public function test_a_registered_statement_is_rewritten_and_no_other(): void
    {
        $this->sql('CREATE TABLE r (at timestamp, v bigint) SORTED BY (at) CHUNKS OF 50 ROWS');
        $this->sql(
            'INSERT INTO r SELECT timestamp \'2026-01-01 00:00:00\' + INTERVAL n.n HOUR, n.n FROM (SELECT a.x * 40 + b.x AS n FROM '
                .'(VALUES '.
                implode(', ', array_map(static fn (int $i): string => "({$i})", range(0, 19))).
                ') a (x) CROSS JOIN (VALUES '.
                implode(', ', array_map(static fn (int $i): string => "({$i})", range(0, 39))).
                ') b (x)) n',
        );
        $sql = "SELECT sum(v) FROM r WHERE cast(at AS date) = date '2026-01-10'";
        $read = fn (): int => $this->steps($this->planOf($sql), \Fulcrion\Core\Plans\StepKind::Scan)[0]->reads->chunks ?? 0;
        $rows = $this->rows($sql);
        $all = $read();
        $id = (new \Fulcrion\Core\Sql\Fingerprinter())->of($sql)->id;
        $this->sql("MAINTAIN TABLE r WITH (action = rewrite, statement = '{$id}')");
        self::assertLessThan($all, $read());
        self::assertSame($rows, $this->rows($sql));
        $this->sql("MAINTAIN TABLE r WITH (action = release, statement = '{$id}')");
        self::assertSame($all, $read());
        $this->expectExceptionMessage('32 hexadecimal digits');
        $this->sql("MAINTAIN TABLE r WITH (action = rewrite, statement = 'x')");
    }

    public function test_the_former_name_of_the_option_is_refused_with_its_name_of_today(): void
    {
        $this->sql('CREATE TABLE t (n bigint)');
        foreach (
            [
                'act = compact' => 'The option act is called action now.',
                'action = fold' => 'The option action takes one of compact, sort, expire,',
                'days = 3' => 'The option action takes one of compact',
            ] as $option => $message
        ) {
            try {
                $this->sql("MAINTAIN TABLE t WITH ({$option})");
                self::fail($option);
            } catch (WarehouseError $refused) {
                self::assertStringContainsString($message, $refused->getMessage());
            }
        }
    }

    /** A thousand rows in batches of ten that come in no order. */
    private function scattered(string $options): TableStore
    {
        $this->sql("CREATE TABLE t (n bigint NOT NULL, k bigint, word text, day date) {$options}");
        for ($i = 0; $i < 100; $i++) {
            $this->sql(
                'INSERT INTO t VALUES '.
                    implode(
                        ', ',
                        array_map(
                            static fn (int $j): string => '('.(($i * 10 + $j) * 377) % 1000 .', '.$j % 10 .", 'w{$j}', NULL)",
                            range(0, 9),
                        ),
                    ),
            );
        }

        return $this->table('t');
    }

    private function table(string $name): TableStore
    {
        return $this->warehouse->table('s', $name) ?? self::fail("no table {$name}");
    }

    /**
     * @param  array<string, int>  $rows
     * @return array<string, int>
     */
    private static function sorted(array $rows): array
    {
        ksort($rows);

        return $rows;
    }
}
