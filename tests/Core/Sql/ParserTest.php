<?php

declare(strict_types=1);

namespace Tests\Core\Sql;

use Fulcrion\Core\Sql\Ast\Binary;
use Fulcrion\Core\Sql\Ast\CreateTable;
use Fulcrion\Core\Sql\Ast\Node;
use Fulcrion\Core\Sql\Ast\Privileges;
use Fulcrion\Core\Sql\BoundText;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Tools\Answers\AnswerComparison;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class ParserTest extends TestCase
{
    private const OTHERS = [
        'CREATE TABLE a.b (x bigint NOT NULL, y decimal(10, 2)) PLACED BY (x, y) CUT BY MONTH OF d SORTED BY (a, b) CHUNKS OF 4096 ROWS',
        'CREATE OR REPLACE VIEW a.v (p, q) AS SELECT 1, 2',
        'INSERT INTO a.b (x, y) VALUES (1, 2.5), (-3, NULL)',
        "COPY a.b (x) FROM 'in.csv' WITH (header = FALSE, delimiter = ';')",
        'UPDATE a.b AS t SET x = x + 1, y = NULL WHERE t.x IS NOT NULL',
        'DELETE FROM a.b WHERE x IN (SELECT y FROM c)',
        'DROP TABLE IF EXISTS a.b',
        'ALTER TABLE a.b RENAME TO c',
        'ANALYZE a.b (x, y)',
        'EXPLAIN ANALYZE SELECT 1',
        'GRANT SELECT, INSERT ON TABLE a.b TO r, s WITH GRANT OPTION',
        'REVOKE r FROM s',
        'CREATE SCHEMA IF NOT EXISTS z',
        'SELECT a FROM t GROUP BY GROUPING SETS ((a, b), (), c) HAVING count(*) > 1 QUALIFY row_number() OVER w = 1',
        'SELECT sum(x) OVER w FROM t WINDOW w AS (PARTITION BY a ORDER BY b ROWS BETWEEN 1 PRECEDING AND CURRENT ROW)',
        'SELECT "Mixed Case", "select", "a""b" FROM "odd table" AS "x y" (p)',
        'SELECT x FROM a NATURAL LEFT JOIN (b CROSS JOIN c) JOIN LATERAL (SELECT 1) AS d ON TRUE',
        "SELECT a.x FROM s.t FOR SYSTEM_TIME AS OF TIMESTAMP '2026-01-01 00:00:00' AS a JOIN s.t FOR SYSTEM_TIME AS OF "
            ."CURRENT_TIMESTAMP - INTERVAL '1' DAY AS b USING (x)",
        'WITH RECURSIVE r (n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM r) (SELECT n FROM r LIMIT 2) UNION (SELECT 3 ORDER BY 1) LIMIT 5 '
            .'OFFSET 1',
        'SELECT - -x, NOT (a AND NOT b), (a OR b) AND c, a - (b - c), a || b || c, x BETWEEN 1 AND 2 + 3, (a = b) = c, x IS NOT TRUE, a '
            .'IS DISTINCT FROM b',
    ];

    /** @return iterable<string, array{string}> */
    public static function texts(): iterable
    {
        foreach (
            [...self::OTHERS, ...array_column(AnswerComparison::written(), 0), ...array_column(AnswerComparison::generated(200),
                0)] as $i => $sql
        ) {
            yield "{$i}: ".substr($sql, 0, 60) => [$sql];
        }
    }

    #[DataProvider('texts')]
    public function test_what_is_printed_reads_back_as_the_same_tree(string $sql): void
    {
        $parser = new Parser();
        $tree = $parser->statement($sql);
        $printed = (new Printer())->statement($tree);
        self::assertSame($this->shape($tree), $this->shape($parser->statement($printed)), $printed);
        $mariaDb = (new Printer(Dialect::MariaDb))->statement($tree);
        self::assertSame($this->shape($tree), $this->shape((new Parser(Dialect::MariaDb))->statement($mariaDb)), $mariaDb);
    }

    public function test_operators_bind_as_the_standard_says(): void
    {
        $printer = new Printer();
        $parser = new Parser();
        foreach (
            [
                'a OR b AND c' => 'a OR (b AND c)',
                'NOT a = b' => 'NOT (a = b)',
                'a + b * c' => 'a + (b * c)',
                'a - b - c' => '(a - b) - c',
                '-a * b' => '(-a) * b',
                'a || b = c' => '(a || b) = c',
                'NOT a AND b' => '(NOT a) AND b',
                'a BETWEEN 1 AND 2 AND b' => '(a BETWEEN 1 AND 2) AND b',
                'x::date = y' => '(CAST(x AS date)) = y',
            ] as $plain => $bracketed
        ) {
            self::assertSame($this->shape($parser->expression($plain)), $this->shape($parser->expression($bracketed)), $plain);
            self::assertStringNotContainsString('((', $printer->expression($parser->expression($plain)));
        }
    }

    /** @return iterable<array{string, int, int, string}> */
    public static function mistakes(): iterable
    {
        yield ["SELECT a,\n  FROM t", 2, 3, 'expected a value (reserved words need quotes), found "FROM"'];
        yield ["SELECT a\nFROM t\nWHERE a = = 1", 3, 11, 'expected a value, found "="'];
        yield ['SELECT (1 + 2', 1, 14, 'expected ")", found the end'];
        yield [
            'SELECT a FROM t JOIN u',
            1,
            23,
            'expected ON or USING of the join (a join without a condition is a CROSS JOIN), found the end',
        ];
        yield ['SELECT a FROM (SELECT 1)', 1, 25, 'expected an alias for the derived table, found the end'];
        yield ['SELEKT 1', 1, 1, 'expected a statement (SELECT, WITH, INSERT, UPDATE, DELETE, CREATE, DROP, ...), found "SELEKT"'];
        yield ["SELECT 'é', CASE x END", 1, 20, 'expected WHEN of CASE, found "END"'];
        yield ['SELECT 1 2', 1, 10, 'expected the end of the statement, found "2"'];
        yield ['SELECT '.str_repeat('(', 500).'1', 1, 407, 'the expression is nested more than 400 levels deep'];
    }

    #[DataProvider('mistakes')]
    public function test_an_error_tells_where_it_is_and_what_was_expected(string $sql, int $line, int $column, string $problem): void
    {
        try {
            (new Parser())->statement($sql);
            self::fail('no error');
        } catch (SyntaxError $error) {
            self::assertSame("Line {$line}, column {$column}: {$problem}.", $error->getMessage());
            [$text, $mark] = explode("\n", $error->excerpt);
            self::assertSame('^', trim($mark));
            self::assertStringContainsString(trim($text), $sql);
        }
    }

    public function test_scripts_are_split_even_where_statements_are_broken(): void
    {
        $script = "SELECT ';' -- one; two\n;\n\n SELEC 2; ;/* ; */ SELECT 3";
        self::assertSame(
            ["SELECT ';'", 'SELEC 2', 'SELECT 3'],
            array_map(static fn (array $span): string => substr($script, $span[0], $span[1] - $span[0]), (new Parser())->split($script)),
        );
        self::assertCount(2, (new Parser())->statements('SELECT 1; SELECT 2;'));
    }

    public function test_positions_point_into_the_text(): void
    {
        $expression = (new Parser())->expression('  a + bb');
        self::assertInstanceOf(Binary::class, $expression);
        self::assertSame([2, 6], [$expression->left->at, $expression->right->at]);
        $create = (new Parser())->statement(self::OTHERS[0]);
        self::assertInstanceOf(CreateTable::class, $create);
        self::assertStringStartsWith('PLACED', substr(self::OTHERS[0], $create->layout->at ?? 0));
        $grant = (new Parser())->statement('GRANT ALL PRIVILEGES ON x TO y');
        self::assertInstanceOf(Privileges::class, $grant);
        self::assertSame(['ALL'], $grant->privileges);
    }

    public function test_values_are_put_in_the_places_of_parameters(): void
    {
        self::assertSame(
            "SELECT 'it''s', 5, NULL, TRUE FROM t WHERE '?' = '?' AND a = 1.5",
            BoundText::fill("SELECT ?, ?, ?, ? FROM t WHERE '?' = '?' AND a = ?", ["it's", 5, null, true, 1.5]),
        );
        self::assertSame("SELECT 7, 'x', 7", BoundText::fill('SELECT :a, :b, :a', ['a' => 7, ':b' => 'x']));
        self::assertSame('SELECT 2, 1', BoundText::fill('SELECT $2, $1', [1, 2]));
    }

    /** The tree without its positions. */
    private function shape(mixed $part): mixed
    {
        if (is_array($part)) {
            return array_map($this->shape(...), $part);
        }
        if (! ($part instanceof Node)) {
            return $part instanceof \UnitEnum ? $part->name : $part;
        }
        $values = get_object_vars($part);
        unset($values['at']);

        return [$part::class => array_map($this->shape(...), $values)];
    }
}
