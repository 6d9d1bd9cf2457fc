<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\Paths;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;

final class StorageTest extends WarehouseTestCase
{
    public function test_a_load_killed_in_the_middle_leaves_the_table_at_its_old_version(): void
    {
        $this->numbers('t', 1000, 'PLACED BY (n) CHUNKS OF 100 ROWS');
        $table = $this->warehouse->table('s', 't') ?? self::fail();
        $before = $table->manifest()->version;
        // The load writes chunk after chunk and would take minutes; it is killed as soon as some are on disk.
        $load = proc_open(
            [PHP_BINARY, '-d', 'memory_limit=512M', __DIR__.'/slow-load.php', $this->root],
            [['file', '/dev/null', 'r'], ['pipe', 'w'], ['file', '/dev/null', 'w']],
            $pipes,
        );
        self::assertNotFalse($load);
        $next = $before + 1;
        for ($i = 0; $i < 400 && count(Paths::matching("{$table->directory}/c{$next}-*.parquet")) < 20; $i++) {
            usleep(25_000);
        }
        self::assertGreaterThanOrEqual(20, count(Paths::matching("{$table->directory}/c{$next}-*.parquet")), 'the load has begun to write');
        proc_terminate($load, 9);
        proc_close($load);

        $again = Warehouse::open($this->root);
        self::assertSame($before, $again->table('s', 't')?->manifest()->version);
        self::assertSame([[1000, 499_500]], $this->rows('SELECT count(*), sum(n) FROM t'));
        // The lock died with the load: writing goes on, and what it left is cleared away.
        $this->sql('INSERT INTO t VALUES (1000, 1, \'x\', NULL)');
        self::assertSame([[1001]], $this->rows('SELECT count(*) FROM t'));
        self::assertGreaterThan(0, $this->sql('MAINTAIN TABLE t WITH (action = sweep)')->rowsAffected);
        self::assertSame([[1001]], $this->rows('SELECT count(*) FROM t'));
    }

    public function test_earlier_versions_can_be_read_until_they_expire(): void
    {
        $this->numbers('t', 300, 'CHUNKS OF 50 ROWS');
        $table = $this->warehouse->table('s', 't') ?? self::fail();
        $old = $table->manifest();
        $this->sql('DELETE FROM t WHERE n < 100');
        self::assertSame([200, 300], [$table->manifest()->rows(), $table->version($old->version)->rows()]);
        foreach ($old->chunks as $chunk) {
            self::assertFileExists($table->file($chunk));
        }
        $table->expire(self::NOW + 1);
        self::assertSame([$table->manifest()->version], $table->versions());
        self::assertSame([[200]], $this->rows('SELECT count(*) FROM t'));
        $this->expectException(WarehouseError::class);
        $table->version($old->version);
    }

    public function test_a_query_reads_a_table_as_it_was_at_a_moment(): void
    {
        $hour = 3_600_000_000;
        foreach (['CREATE TABLE t (n bigint)', 'INSERT INTO t VALUES (1), (2)', 'DELETE FROM t WHERE n = 1'] as $i => $sql) {
            $this->engine->run($sql, new Session('s', 'tester', self::NOW + $i * $hour), $this->limits());
        }
        $at = fn (string $moment): array => $this->rows("SELECT n FROM t FOR SYSTEM_TIME AS OF {$moment} ORDER BY n");
        self::assertSame([[2]], $this->rows('SELECT n FROM t'));
        self::assertSame([[1], [2]], $at("TIMESTAMP '".gmdate('Y-m-d H:i:s', intdiv(self::NOW + $hour, 1_000_000))."'"));
        self::assertSame([], $at("TIMESTAMP '".gmdate('Y-m-d H:i:s', intdiv(self::NOW + $hour, 1_000_000) - 1)."'"));
        self::assertSame(
            [[1]],
            $this->rows(
                "SELECT old.n FROM t FOR SYSTEM_TIME AS OF '".
                    gmdate('Y-m-d H:i:s', intdiv(self::NOW + $hour, 1_000_000)).
                    "' AS old LEFT JOIN t ON t.n = old.n WHERE t.n IS NULL",
            ),
        );
        $this->expectExceptionMessage('s.t keeps no version that old; the oldest was written at 2026-03-20 09:46:40.');
        $at("DATE '2020-01-01'");
    }

    public function test_rows_go_where_distribution_and_partitions_send_them(): void
    {
        $this->numbers('t', 1000, 'PLACED BY (k) CUT BY WEEK OF day SORTED BY (word) CHUNKS OF 40 ROWS');
        $manifest = $this->warehouse->table('s', 't')?->manifest() ?? self::fail();
        self::assertSame(1000, array_sum($manifest->rowsByNode(4)));
        foreach (range(0, 9) as $k) {
            $nodes = [];
            foreach ($manifest->chunks as $chunk) {
                if ($chunk->zones[1]->min <= $k && $chunk->zones[1]->max >= $k) {
                    $nodes[$chunk->node] = true;
                }
            }
            self::assertArrayHasKey(Distribution::node([$k], 4), $nodes);
        }
        // Ten days from a Thursday on touch two weeks.
        self::assertSame(2, $manifest->partitionCount());
        foreach ($manifest->chunks as $chunk) {
            self::assertLessThanOrEqual(40, $chunk->rows);
        }
        $this->sql('CREATE TABLE c PLACED EVERYWHERE AS SELECT * FROM t');
        $copy = $this->warehouse->table('s', 'c')?->manifest() ?? self::fail();
        self::assertSame([1000, 1000, 1000, 1000], $copy->rowsByNode(4));
        self::assertSame(4 * $copy->bytes(1), $copy->bytes(4));
    }

    public function test_a_damaged_chunk_is_an_error_and_not_another_answer(): void
    {
        $this->numbers('t', 200, 'CHUNKS OF 50 ROWS');
        $table = $this->warehouse->table('s', 't') ?? self::fail();
        $path = $table->file($table->manifest()->chunks[0]);
        file_put_contents($path, substr((string) file_get_contents($path), 0, -30));
        $this->expectException(ParquetError::class);
        $this->rows('SELECT sum(n) FROM t');
    }

    public function test_names_cannot_leave_the_directory(): void
    {
        $this->sql('CREATE TABLE "../../out/side" (a bigint)');
        self::assertSame(['../../out/side'], $this->warehouse->tables('s'));
        self::assertDirectoryDoesNotExist(dirname($this->root, 2).'/out');
        $this->sql('DROP TABLE "../../out/side"');
        self::assertSame([], $this->warehouse->tables('s'));
    }
}
