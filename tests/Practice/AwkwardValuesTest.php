<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Practice\WarehouseError;
use Fulcrion\Tools\Worlds\ExpressionAttack;
use PHPUnit\Framework\Attributes\DataProvider;

/**
 * Values at the limits of their types, and expressions nobody would write.
 */
final class AwkwardValuesTest extends WarehouseTestCase
{
    public function test_random_expressions_end_in_a_value_or_in_a_refusal(): void
    {
        $directory = sys_get_temp_dir().'/fulcrion-expressions-'.getmypid();
        mkdir($directory, 0o700);
        $attack = new ExpressionAttack($directory);
        $attack->attack(1500, 90_000);
        exec('rm -rf '.escapeshellarg($directory));
        self::assertSame([], array_slice($attack->uncaught, 0, 3));
        self::assertSame([], array_slice($attack->differing, 0, 3));
        self::assertGreaterThan(1000, $attack->compared, 'enough were run to tell');
    }

    /**
     * @return iterable<string, array{string, string}> SELECT list => values as people see them
     */
    public static function values(): iterable
    {
        foreach (
            [
                'power(-2, 3), power(-2, 2), -(2)' => '-8 4 -2',
                "right('abc', -1), left('abc', -1), right('abc', 2)" => "'' '' bc",
                "trim('äabcä', 'ä'), trim('xyxyaxy', 'xy'), ltrim('aab', 'a'), rtrim('baa', 'a'), trim('aaa', 'a'), trim('abc', "
                    ."'')" => "abc a b b '' abc",
                "trim('a..z', 'a..z'), ltrim('cab', 'abc'), trim('  a ')" => "'' cab a",
                "'a%' LIKE 'a%%' ESCAPE '%', 'ab' LIKE 'a%%' ESCAPE '%', 'a_b' LIKE 'a%_b' ESCAPE '%', 'a%c' LIKE '_#%c' ESCAPE "
                    ."'#'" => 'true false true true',
                "'abcabd' LIKE '%ab%d', 'abcab' LIKE '%ab%ab', 'ab' LIKE '%ab%ab', 'aXbXc' LIKE 'a%X%c', '' LIKE '%%'" => 'true true '
                    .'false true true',
                "concat_ws(NULL, 'a', 'b'), concat_ws('-', 'a', NULL, 'b'), concat_ws('-', NULL)" => "NULL a-b ''",
                '-9223372036854775808 % -1, 9223372036854775807, -9223372036854775808, 7.9 DIV 2, -7 DIV 2, -7 % 2' => '0 '
                    .'9223372036854775807 -9223372036854775808 3 -3 -1',
                '0.0 * -1, -0e0, round(-0.4), ceil(-0.5e0), CAST(-0e0 AS text), 0e0 / -3' => '0.0 0 0 0 0 0',
                'nullif(0e0, NULL), nullif(0, NULL), nullif(0e0, -0e0), nullif(1, 1)' => '0 0 NULL NULL',
                'round(12345, -400), round(1.5e0, 400), round(1.5e0, -400), round(123.45, -1), round(-0.5), round(0.49)' => '0 1.5 0 '
                    .'120 -1 0',
                "CAST('-9223372036854775808' AS bigint), CAST(' +007 ' AS bigint), CAST('99.99' AS decimal(4, "
                    .'2))' => '-9223372036854775808 7 99.99',
                "DATE '9999-12-31' + INTERVAL 0 DAY, DATE '0001-01-31' + INTERVAL 1 MONTH, TIMESTAMP '9999-12-31 23:59:59' - INTERVAL 1 "
                    .'SECOND' => '9999-12-31 0001-02-28 9999-12-31 23:59:58',
                'ceil(-1.5), floor(-1.5), ceil(9999999999999999.99), sign(-0.0), abs(-9223372036854775807)' => '-1 -2 10000000000000000 '
                    .'0 9223372036854775807',
            ] as $list => $expected
        ) {
            yield $list => [$list, $expected];
        }
    }

    #[DataProvider('values')]
    public function test_values_at_the_limits(string $list, string $expected): void
    {
        $outcome = $this->sql("SELECT {$list}");
        $shown = [];
        foreach ($outcome->columns as $i => $column) {
            $value = $column->type->show($outcome->rows[0][$i]);
            $shown[] = $value === '' ? "''" : $value;
        }
        self::assertSame($expected, implode(' ', $shown));
    }

    /**
     * @return iterable<string, array{string, string}>
     */
    public static function refusals(): iterable
    {
        foreach (
            [
                'SELECT (-9223372036854775807 - 1) DIV -1' => 'beyond what 64 bits hold',
                'SELECT CAST(-9223372036854775808 AS bigint) / -1' => 'beyond what 64 bits hold',
                'SELECT 1e300 DIV 1e-10' => 'beyond what 64 bits hold',
                "SELECT CAST('9223372036854775808' AS bigint)" => 'is no whole number of 64 bits',
                'SELECT -(-9223372036854775808)' => 'beyond what 64 bits hold',
                "SELECT DATE '2026-01-01' + INTERVAL 9223372036854775807 DAY" => 'outside of the years 1 to 9999',
                "SELECT TIMESTAMP '2026-01-01 00:00:00' + INTERVAL 9223372036854775807 HOUR" => 'outside of the years 1 to 9999',
                "SELECT DATE '9999-12-31' + INTERVAL 1 DAY" => 'outside of the years 1 to 9999',
                "SELECT DATE '0001-01-01' - INTERVAL 1 MONTH" => 'outside of the years 1 to 9999',
                'SELECT sum(v) FROM (VALUES (1e308), (1e308)) AS t (v)' => 'beyond what a double holds',
                'SELECT sum(DISTINCT v) FROM (VALUES (1e308), (1.1e308)) AS t (v)' => 'beyond what a double holds',
                'SELECT sum(v) OVER () FROM (VALUES (1e308), (1e308)) AS t (v)' => 'beyond what a double holds',
                'SELECT avg(v) FROM (VALUES (1e308), (1e308)) AS t (v)' => 'beyond what a double holds',
                'SELECT 1e308 * 10' => 'beyond what a double holds',
                'SELECT power(-2, 0.5)' => 'is none',
                'SELECT power(0, -1)' => 'beyond what a double holds',
                'SELECT exp(1000)' => 'beyond what a double holds',
                'SELECT 1e999' => 'beyond what a double holds',
                "SELECT CAST('1e999' AS double)" => 'beyond what a double holds',
                'SELECT CAST(100 AS decimal(4, 2))' => 'does not fit into decimal(4, 2): it has more than 2 digits',
                "SELECT CAST('99.995' AS decimal(4, 2))" => 'does not fit',
                "SELECT lpad('a', 999999999, 'b')" => 'beyond 16 MiB',
                "SELECT replace(lpad('a', 1000000, 'a'), 'a', lpad('b', 1000000, 'b'))" => 'beyond 16 MiB',
            ] as $sql => $why
        ) {
            yield $sql => [$sql, $why];
        }
    }

    #[DataProvider('refusals')]
    public function test_what_cannot_be_computed_is_refused_in_words(string $sql, string $why): void
    {
        try {
            $this->sql($sql);
            self::fail("{$sql} was answered.");
        } catch (WarehouseError $error) {
            self::assertStringContainsString($why, $error->sealed());
        }
    }

    public function test_constants_among_the_groups_and_zero_with_a_sign(): void
    {
        $this->sql('CREATE TABLE z (n bigint, d double, x text) PLACED BY (n)');
        $this->sql("INSERT INTO z VALUES (1, 0e0, 'a'), (2, -0e0, 'b'), (3, 0e0 * -1, 'a'), (4, 0e0, 'b'), (5, -0e0, 'a'), (6, 2.5, 'b')");
        foreach (["7 + 0, x, DATE '2026-01-01'", "x, -2.5, DATE '2026-01-01' + INTERVAL 1 DAY", "'k' || x, 1.5", 'x, -7, true'] as $keys) {
            self::assertSame([[3], [3]], $this->rows("SELECT count(*) FROM z GROUP BY {$keys}"), $keys);
        }
        self::assertSame([[0.0, 5], [2.5, 1]], $this->rows('SELECT d, count(*) FROM z GROUP BY d ORDER BY d'));
        self::assertSame([[2, 2]], $this->rows('SELECT count(DISTINCT d), approx_count_distinct(d) FROM z'));
        self::assertSame([[25]], $this->rows('SELECT count(*) FROM z AS a JOIN z AS b ON a.d = b.d WHERE a.d < 1'));
        $this->sql('CREATE TABLE y PLACED BY (d) AS SELECT d, n FROM z');
        self::assertSame(
            [[25]],
            $this->rows('SELECT count(*) FROM y AS a JOIN y AS b ON a.d = b.d WHERE a.d < 1'),
            'zeros of both signs are on one node',
        );
        self::assertSame([[6]], $this->rows('SELECT v FROM (VALUES ((SELECT max(n) FROM z))) AS t (v)'));
    }

    public function test_small_loads_are_dealt_to_all_nodes_in_turn(): void
    {
        $this->sql('CREATE TABLE e (n bigint) PLACED EVENLY');
        for ($i = 0; $i < 60; $i++) {
            $this->sql("INSERT INTO e VALUES ({$i}), (".($i + 100).')');
        }
        $rows = [];
        foreach ($this->warehouse->table('s', 'e')->manifest()->chunks as $chunk) {
            $rows[$chunk->node] = ($rows[$chunk->node] ?? 0) + $chunk->rows;
        }
        ksort($rows);
        self::assertSame([30, 30, 30, 30], $rows);
    }

    public function test_what_does_not_fit_is_not_written(): void
    {
        $this->sql('CREATE TABLE q (d decimal(4, 2))');
        foreach (
            ['VALUES (123.45)', 'VALUES (99.995)', 'SELECT 50.5 * 2', 'SELECT CAST(n AS decimal(18, 2)) FROM (VALUES (-100)) AS t '
                .'(n)'] as $source
        ) {
            try {
                $this->sql("INSERT INTO q {$source}");
                self::fail("{$source} was written.");
            } catch (WarehouseError $error) {
                self::assertStringContainsString('does not fit into decimal(4, 2)', $error->getMessage());
            }
        }
        self::assertSame('1 rows inserted.', str_replace('row ', 'rows ', $this->sql('INSERT INTO q VALUES (-99.99)')->message));
        file_put_contents($this->warehouse->inbox().'/q.csv', "d\n1.5\n100\n");
        $this->expectExceptionMessage('Line 3, column d: A number does not fit into decimal(4, 2)');
        $this->sql("COPY q FROM 'q.csv'");
    }

    public function test_long_chains_and_lists_are_run_or_refused_and_never_end_in_a_crash(): void
    {
        $this->sql('CREATE TABLE z (n bigint, x text)');
        $this->sql("INSERT INTO z VALUES (1, 'a')");
        self::assertSame([[400]], $this->rows('SELECT '.implode(' + ', array_fill(0, 400, 'n')).' FROM z'));
        self::assertSame(
            [[1]],
            $this->rows('SELECT n FROM z WHERE '.implode(' OR ', array_map(static fn (int $i): string => "n = {$i}", range(3000, 1)))),
        );
        self::assertSame(
            [[1]],
            $this->rows(
                'SELECT n FROM z WHERE NOT ('.implode(' AND ', array_map(static fn (int $i): string => "n = {$i}", range(1, 3000))).')',
            ),
        );
        self::assertSame(
            [[7]],
            $this->rows(
                'SELECT CASE '.
                    implode(' ', array_map(static fn (int $i): string => "WHEN n = {$i} THEN {$i}", range(2, 3000))).
                    ' ELSE 7 END FROM z',
            ),
        );
        self::assertSame(
            [[null]],
            $this->rows(
                'SELECT CASE '.
                    implode(' ', array_map(static fn (int $i): string => "WHEN n = {$i} THEN {$i}", range(2, 200))).
                    ' END FROM z',
            ),
        );
        foreach (
            [
                'SELECT '.implode(' + ', array_fill(0, 20_000, 'n')).' FROM z' => '500 levels',
                'SELECT '.str_repeat('(', 5000).'n'.str_repeat(')', 5000).' FROM z' => '400 levels',
                'SELECT '.str_repeat('- ', 5000).'n FROM z' => '400 levels',
            ] as $sql => $why
        ) {
            try {
                $this->sql($sql);
                self::fail('It was run.');
            } catch (WarehouseError|SyntaxError $error) {
                self::assertStringContainsString($why, $error->getMessage());
            }
        }
        $text = str_repeat('ab', 20_000);
        $this->sql("INSERT INTO z VALUES (2, '{$text}')");
        self::assertSame([], $this->rows("SELECT n FROM z WHERE x LIKE '%a%b%a%b%a%b%a%b%a%b%c'"), 'a pattern is not tried in every way');
    }
}
