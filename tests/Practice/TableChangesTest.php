<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\ParquetWriter;
use Fulcrion\Practice\WarehouseError;
use PHPUnit\Framework\Attributes\DataProvider;

final class TableChangesTest extends WarehouseTestCase
{
    public function test_tables_and_views_are_made_changed_renamed_and_dropped(): void
    {
        $this->sql('CREATE TABLE t (a bigint NOT NULL, b text, c decimal(6, 2))');
        self::assertSame(2, $this->sql('INSERT INTO t (c, a) VALUES (1.5, 1), (2.25, 2)')->rowsAffected);
        self::assertSame([[1, null, 150], [2, null, 225]], $this->rows('SELECT a, b, c FROM t ORDER BY a'));
        self::assertSame(1, $this->sql("UPDATE t SET b = 'two', c = c * 2 WHERE a = 2")->rowsAffected);
        self::assertSame([[2, 'two', 450]], $this->rows('SELECT * FROM t WHERE b IS NOT NULL'));
        $this->sql('CREATE VIEW v (twice) AS SELECT a * 2 FROM t');
        self::assertSame([[2], [4]], $this->rows('SELECT twice FROM v ORDER BY 1'));
        $this->sql('ALTER TABLE t RENAME TO u');
        self::assertSame(1, $this->sql('DELETE FROM u WHERE c > 2')->rowsAffected);
        $this->sql('CREATE OR REPLACE TABLE u AS SELECT a + 10 AS a FROM u');
        self::assertSame([[11]], $this->rows('SELECT * FROM u'));
        $this->sql('DROP VIEW v');
        $this->sql('DROP TABLE u');
        $this->sql('DROP TABLE IF EXISTS u');
        self::assertSame([], $this->warehouse->tables('s'));
    }

    public function test_a_changed_table_has_old_statistics_until_they_are_collected(): void
    {
        $this->numbers('t', 100, '');
        self::assertNull($this->warehouse->table('s', 't')?->statistics());
        $this->sql('ANALYZE t');
        $this->sql('INSERT INTO t SELECT n + 1000, k, word, day FROM t');
        $facts = $this->planOf('SELECT n FROM t')->steps();
        self::assertSame(1.0, end($facts)->table->changedShare ?? null);
        $this->sql('ANALYZE t (n)');
        self::assertSame(200, $this->warehouse->table('s', 't')->statistics()?->rows);
    }

    public function test_files_are_copied_whole_or_not_at_all(): void
    {
        $this->sql('CREATE TABLE t (id bigint NOT NULL, name text, paid decimal(8, 2), at timestamp)');
        $csv = $this->warehouse->inbox().'/in.csv';
        file_put_contents($csv, "name,id,at,paid\n\"a, b\",1,2026-01-01 10:00:00,1.50\n,2,,\n");
        self::assertSame(2, $this->sql("COPY t FROM 'inbox/in.csv'")->rowsAffected);
        self::assertSame([['a, b', 150], ['', null]], $this->rows('SELECT name, paid FROM t ORDER BY id'));
        file_put_contents($csv, "id,name,paid,at\n3,x,1.5,2026-01-01\n4,y,many,2026-01-01\n");
        try {
            $this->sql("COPY t FROM 'in.csv'");
            self::fail('a broken file was copied');
        } catch (WarehouseError $error) {
            self::assertSame('Line 3, column paid: A value is no number. Nothing was copied.', $error->getMessage());
            self::assertSame('Line 3, column paid: "many" is no number. Nothing was copied.', $error->sealed());
        }
        $parquet = $this->warehouse->inbox().'/in.parquet';
        file_put_contents(
            $parquet,
            (new ParquetWriter())->write(
                [new Column('id', ColumnType::of(TypeKind::Bigint)), new Column('name', ColumnType::of(TypeKind::Text))],
                [[7, 8], ['p', null]],
            ),
        );
        $this->sql("COPY t (id, name) FROM 'in.parquet'");
        self::assertSame([[4]], $this->rows('SELECT count(*) FROM t'));
    }

    /** @return iterable<array{string, string}> */
    public static function refusals(): iterable
    {
        yield ['SELECT nn FROM t', 'There is no column nn here; perhaps n is meant.'];
        yield ['SELECT n FROM nowhere', 'There is no table s.nowhere.'];
        yield ['SELECT n FROM t a JOIN t b ON a.n = b.n', 'The column n could come from more than one table; write the table in front.'];
        yield ['SELECT k, sum(n) FROM t', 'The column k is neither in GROUP BY nor inside an aggregate.'];
        yield [
            'SELECT n FROM t WHERE sum(n) > 1',
            'The aggregate sum cannot be used here; aggregates stand in SELECT, HAVING and ORDER BY.',
        ];
        yield ['SELECT n FROM t WHERE word > 5', 'text and bigint cannot be compared or combined; CAST one of them.'];
        yield ["SELECT n FROM t WHERE day = '2026-13-01'", '"2026-13-01" is no date; write 2026-11-23.'];
        yield ['SELECT n FROM t WHERE n = ?', 'The parameter ? has no value; put one in its place.'];
        yield ['WITH RECURSIVE r AS (SELECT 1) SELECT * FROM r', 'WITH RECURSIVE cannot be run here.'];
        yield ['SELECT k, sum(n) FROM t GROUP BY ROLLUP (k)', 'GROUP BY ROLLUP cannot be run here.'];
        yield ['SELECT frobnicate(n) FROM t', 'There is no function frobnicate.'];
        yield ['SELECT n FROM t EXCEPT ALL SELECT 1', 'EXCEPT ALL cannot be run here.'];
        yield ['GRANT SELECT ON t TO x', 'GRANT can be read but not run here: the practice cluster keeps no privileges.'];
        yield ['INSERT INTO t (k) VALUES (1)', 'The column n may not be NULL. Nothing was written.'];
        yield ['SELECT 900000000000000000 * n * 100 FROM t', 'A number grew beyond what 64 bits hold. Cast an operand to double.'];
        yield ['SELECT (SELECT n FROM t)', 'A subquery in place of one value gave 20 rows.'];
        yield ['CREATE TABLE x (a bigint) PLACED BY (b)', 'A table is laid out by its own columns; it has no b but a.'];
        yield ["COPY t FROM '../cluster.json'", 'There is no file ../cluster.json in the inbox of the cluster, which is empty.'];
        yield ["COPY t FROM '/etc/passwd'", 'There is no file /etc/passwd in the inbox of the cluster, which is empty.'];
        yield [
            'CREATE TABLE x (a money)',
            'The type money is not known; known are bigint, double, decimal(p, s), text, boolean, date and timestamp.',
        ];
    }

    #[DataProvider('refusals')]
    public function test_what_cannot_be_run_is_refused_with_its_reason(string $sql, string $reason): void
    {
        $this->numbers('t', 20, '');
        $tables = $this->warehouse->tables('s');
        try {
            $this->sql($sql);
            self::fail('it ran');
        } catch (WarehouseError $error) {
            self::assertSame($reason, $error->getMessage());
        }
        self::assertSame($tables, $this->warehouse->tables('s'));
        self::assertSame([[20]], $this->rows('SELECT count(*) FROM t'));
    }
}
