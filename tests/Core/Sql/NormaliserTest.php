<?php

declare(strict_types=1);

namespace Tests\Core\Sql;

use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Sql\Lexer;
use Fulcrion\Core\Sql\Normaliser;
use Fulcrion\Core\Sql\Pretty;
use Fulcrion\Core\Sql\StatementKind;
use Fulcrion\Core\Sql\Token;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class NormaliserTest extends TestCase
{
    #[DataProvider('handWorked')]
    public function test_reduces_to_the_statement(string $sql, string $expected, Dialect $dialect = Dialect::Ansi): void
    {
        self::assertSame($expected, (new Normaliser($dialect))->normalise($sql));
    }

    /** @return iterable<string, array{0: string, 1: string, 2?: Dialect}> */
    public static function handWorked(): iterable
    {
        yield 'literals, case, white space' => [
            "select  a\n from t where x = 'it''s' and y=1.5e-3;",
            'SELECT a FROM t WHERE x = ? AND y = ?',
        ];
        yield 'signs belong to values' => ['SELECT -1, a - 1, f(-2), 3 - -4 WHERE x = - 5', 'SELECT ?, a - ?, f(?), ? - ? WHERE x = ?'];
        yield 'lists become one mark' => [
            'SELECT * FROM t WHERE a IN (1, 2, NULL) AND b NOT IN (?)',
            'SELECT * FROM t WHERE a IN (?, ...) AND b NOT IN (?, ...)',
        ];
        yield 'a list with an expression stays' => ['SELECT 1 WHERE a IN (1, b)', 'SELECT ? WHERE a IN (?, b)'];
        yield 'rows of values' => ["INSERT INTO t (a, b) VALUES (1, 'x'), (2, 'y'),(3,NULL)", 'INSERT INTO t(a, b) VALUES (?, ...)'];
        yield 'rows of different shape' => [
            'INSERT INTO t VALUES (1, now()), (2, now()), (3, 4)',
            'INSERT INTO t VALUES (?, NOW()), (?, ...)',
        ];
        yield 'comments and hints' => ["SELECT /*+ spread(a) */ 1 -- end\n/* a /* nested */ still */ FROM t", 'SELECT ? FROM t'];
        yield 'parameters of every style' => ['SELECT ?, ?1, :name, $2, @p, %s, %(n)s, {{ v }}, #{x}', 'SELECT ?, ?, ?, ?, ?, ?, ?, ?, ?'];
        yield 'casts and slices are no parameters' => ['SELECT a::int, b[1:2]', 'SELECT a :: INT, b [ ? : ? ]'];
        yield 'three quoting styles' => ['SELECT `a`, "b", [c], "Two Words", `select`', 'SELECT a, b, c, "Two Words", `select`'];
        yield 'double quotes in MariaDB' => ['SELECT "it\"s", `b` # end', 'SELECT ?, b', Dialect::MariaDb];
        yield 'backslash is plain in the standard' => ["SELECT 'a\\', b", 'SELECT ?, b'];
        yield 'backslash escapes in MariaDB' => ["SELECT 'a\\'', b", 'SELECT ?, b', Dialect::MariaDb];
        yield 'two dashes without a space in MariaDB' => ['SELECT 5--3', 'SELECT ? - ?', Dialect::MariaDb];
        yield 'dollar quotes' => ["SELECT \$\$it's\$\$, \$x\$ \$\$ \$x\$, a", 'SELECT ?, ?, a'];
        yield 'hexadecimal, binary, prefixed' => ["SELECT 0xFF, 0b01, x'ff', N'a', E'a\\'b', U&'a'", 'SELECT ?, ?, ?, ?, ?, ?'];
        yield 'names that begin with digits' => ['SELECT 2024_sales FROM t1', 'SELECT 2024_sales FROM t1'];
        yield 'endings of temporary names' => [
            'CREATE TABLE s.tmp_kilos_8f3a2b AS SELECT * FROM stage_pick_20261101_0042',
            'CREATE TABLE s.tmp_kilos_$ AS SELECT * FROM stage_pick_$',
        ];
        yield 'other endings stay' => ['SELECT * FROM pick_2026, tmp_feedback', 'SELECT * FROM pick_2026, tmp_feedback'];
        yield 'what a server has digested already' => [
            'SELECT * FROM `t` WHERE `a` IN (...) ',
            'SELECT * FROM t WHERE a IN (?, ...)',
            Dialect::MariaDb,
        ];
        foreach (
            [
                'words that mean the same' => ['SELECT DISTINCTROW SUBSTR(b, 1) FROM t WHERE a = SOME (SELECT 1)',
                    'SELECT DISTINCT SUBSTRING(b, ?) FROM t WHERE a = ANY (SELECT ?)'],
                'names of functions that are quoted' => ['SELECT `ifnull` (a, 3) FROM t', 'SELECT IFNULL (a, ?) FROM t'],
                'a column called like a function' => ['SELECT mid, std FROM t', 'SELECT mid, std FROM t'],
                'a table called like a function' => ['INSERT INTO mid (a) VALUES (1)', 'INSERT INTO mid(a) VALUES (?, ...)'],
                'variables of the server' => ['SELECT @@`Version`, @ @ x', 'SELECT @@version, @@x'],
                'variables of a session' => ['SELECT @x, @?', 'SELECT @?, @?'],
                'both signs for unequal' => ['SELECT a FROM t WHERE a != 1', 'SELECT a FROM t WHERE a <> ?'],
                'a name that is a word of the server' => ['SELECT id, t.id FROM t', 'SELECT ID, t.id FROM t'],
                'rows of values anywhere' => ['SELECT a FROM t WHERE (a, b) IN ((1, 2), (3, NULL))',
                    'SELECT a FROM t WHERE (a, b) IN ((?, ...))'],
                'nothing as a value' => ['UPDATE t SET a = NULL WHERE b IS NULL AND c IS NOT NULL',
                    'UPDATE t SET a = ? WHERE b IS NULL AND c IS NOT NULL'],
                'nothing in a definition' => ['CREATE TABLE t (a INT NOT NULL, b INT NULL)',
                    'CREATE TABLE t(a INTEGER NOT NULL, b INTEGER NULL)'],
                'a text with its character set' => ["SELECT (_charset) 'x'", 'SELECT ?'],
                'lists of arguments' => ['SELECT f(a, 1, 2, 3, b) FROM t', 'SELECT f(a, ?, ..., b) FROM t'],
            ] as $name => [$sql, $text]
        ) {
            yield $name => [$sql, $text, Dialect::MariaDb];
        }
        yield 'words of a server elsewhere' => ['SELECT id FROM t WHERE a != ANY (SELECT 1)', 'SELECT id FROM t WHERE a != ANY (SELECT ?)'];
        yield 'nothing at all' => [" \n ", ''];
    }

    public function test_the_tokens_of_any_bytes_join_to_those_bytes(): void
    {
        $random = new Randomizer(new Mt19937(7));
        foreach ([Dialect::Ansi, Dialect::MariaDb] as $dialect) {
            $lexer = new Lexer($dialect);
            for ($i = 0; $i < 3_000; $i++) {
                $sql = self::noise($random);
                self::assertSame($sql, implode('', array_map(static fn (Token $token): string => $token->text, $lexer->tokens($sql))));
            }
        }
    }

    public function test_normalising_twice_changes_nothing(): void
    {
        $random = new Randomizer(new Mt19937(11));
        foreach ([Dialect::Ansi, Dialect::MariaDb] as $dialect) {
            $normaliser = new Normaliser($dialect);
            for ($i = 0; $i < 6_000; $i++) {
                $sql = $i % 2 === 0 ? self::noise($random) : self::statement($random, 'a');
                $once = $normaliser->normalise($sql);
                self::assertSame($once, $normaliser->normalise($once), $sql);
            }
        }
    }

    public function test_only_literals_may_differ(): void
    {
        $random = new Randomizer(new Mt19937(13));
        $fingerprinter = new Fingerprinter();
        for ($i = 0; $i < 2_000; $i++) {
            $seed = $random->getInt(1, PHP_INT_MAX);
            // The same shape from the same seed; literals from another one.
            $one = self::statement(new Randomizer(new Mt19937($seed)), 'a', new Randomizer(new Mt19937(1)));
            $two = self::statement(new Randomizer(new Mt19937($seed)), 'a', new Randomizer(new Mt19937(2)));
            $other = self::statement(new Randomizer(new Mt19937($seed)), 'renamed', new Randomizer(new Mt19937(1)));
            self::assertSame($fingerprinter->of($one)->id, $fingerprinter->of($two)->id, "{$one}\n{$two}");
            self::assertNotSame($fingerprinter->of($one)->id, $fingerprinter->of($other)->id, $one);
        }
    }

    public function test_changing_an_operator_or_clause_changes_the_fingerprint(): void
    {
        $fingerprinter = new Fingerprinter();
        $base = 'SELECT a FROM t WHERE b = 1 ORDER BY c LIMIT 5';
        foreach (
            [
                'SELECT a FROM t WHERE b > 1 ORDER BY c LIMIT 5',
                'SELECT a FROM t WHERE b = 1 ORDER BY c',
                'SELECT DISTINCT a FROM t WHERE b = 1 ORDER BY c LIMIT 5',
                'SELECT a FROM t WHERE b = 1 ORDER BY c DESC LIMIT 5',
                'SELECT a FROM u WHERE b = 1 ORDER BY c LIMIT 5',
                'SELECT A FROM t WHERE b = 1 ORDER BY c LIMIT 5',
            ] as $changed
        ) {
            self::assertNotSame($fingerprinter->of($base)->id, $fingerprinter->of($changed)->id, $changed);
        }
        self::assertSame($fingerprinter->of($base)->id, $fingerprinter->of('select a from t where b = 99 order by c limit 7')->id);
    }

    public function test_the_memory_never_changes_an_answer(): void
    {
        $random = new Randomizer(new Mt19937(17));
        foreach ([Dialect::Ansi, Dialect::MariaDb] as $dialect) {
            // A small memory is full all the time.
            $remembering = new Fingerprinter($dialect, 50);
            $plain = new Fingerprinter($dialect);
            for ($i = 0; $i < 6_000; $i++) {
                $sql = $i % 2 === 0 ? self::noise($random, 6) : self::statement($random, 'a');
                self::assertSame($plain->compute($sql)->text, $remembering->of($sql)->text, $sql);
            }
        }
    }

    public function test_deep_nesting_and_great_length_do_no_harm(): void
    {
        $normaliser = new Normaliser();
        self::assertSame('SELECT ?', $normaliser->normalise('SELECT '.str_repeat('/*', 20_000).str_repeat('*/', 20_000).' 1'));
        self::assertSame('SELECT', $normaliser->normalise('SELECT '.str_repeat('/* ', 20_000)));
        self::assertSame(
            'SELECT a WHERE b IN (?, ...)',
            $normaliser->normalise('SELECT a WHERE b IN ('.implode(',', range(1, 40_000)).')'),
        );
        self::assertStringStartsWith('SELECT ((((', $normaliser->normalise('SELECT '.str_repeat('(', 50_000)));
        self::assertSame("SELECT \xff\xfe", $normaliser->normalise("select \xff\xfe"));
    }

    public function test_tells_the_kind(): void
    {
        foreach (
            [
                'SELECT a' => 'read',
                '(SELECT a)' => 'read',
                'INSERT INTO t VALUES (?, ...)' => 'insert',
                'WITH x AS (SELECT a) INSERT INTO t SELECT a FROM x' => 'insert',
                'WITH x AS (SELECT a) SELECT a FROM x' => 'read',
                'COPY t FROM ?' => 'load',
                'GRANT SELECT ON t TO r' => 'access',
                'ANALYZE t' => 'maintenance',
                'COMMIT' => 'session',
                '???' => 'other',
            ] as $text => $kind
        ) {
            self::assertSame($kind, StatementKind::ofNormalised($text)->value, $text);
        }
    }

    public function test_laying_out_changes_white_space_only(): void
    {
        $random = new Randomizer(new Mt19937(19));
        $pretty = new Pretty();
        $normaliser = new Normaliser();
        for ($i = 0; $i < 1_000; $i++) {
            $sql = self::statement($random, 'a');
            self::assertSame($normaliser->normalise($sql), $normaliser->normalise($pretty->text($sql)), $sql);
        }
        self::assertSame(
            "SELECT a, extract(hour FROM b)\nFROM t\nWHERE c IN (\n  SELECT d\n  FROM u\n)\nORDER BY a",
            $pretty->text('SELECT a, extract(hour FROM b) FROM t WHERE c IN (SELECT d FROM u) ORDER BY a'),
        );
    }

    private static function noise(Randomizer $random, int $most = 14): string
    {
        $pieces = [
            'select',
            ' ',
            "\n",
            'a',
            'IN',
            '(',
            ')',
            '1',
            ',',
            "'",
            '"',
            '`',
            '[',
            ']',
            '-',
            '--',
            '/*',
            '*/',
            '/',
            '*',
            '$',
            '$$',
            '?',
            ':',
            '::',
            '.',
            '...',
            '5.',
            'e3',
            '@',
            '#',
            '%s',
            '{',
            '}',
            '\\',
            "\xff",
            "\0",
            'tmp_1234',
            'VALUES',
            "'x'",
            '=',
            '+',
            'E',
            'x_$',
            ';',
            'é',
            '0x',
            '_9',
        ];
        $sql = '';
        for ($n = $random->getInt(1, $most); $n > 0; $n--) {
            $sql .= $pieces[$random->getInt(0, count($pieces) - 1)];
        }

        return $sql;
    }

    private static function statement(Randomizer $shape, string $column, ?Randomizer $values = null): string
    {
        $values ??= $shape;
        $literal = static fn (): string => match ($values->getInt(0, 5)) {
            0 => (string) $values->getInt(0, 99_999),
            1 => "'".['x', "it''s", '', '-- no', '/* no */', 'é'][$values->getInt(0, 5)]."'",
            2 => $values->getInt(0, 99).'.'.$values->getInt(0, 99),
            3 => '-'.$values->getInt(1, 99),
            4 => $values->getInt(1, 9).'e'.$values->getInt(1, 9),
            default => '0x'.dechex($values->getInt(1, 9999)),
        };
        $condition = static fn (): string => match ($shape->getInt(0, 4)) {
            0 => "{$column} = ".$literal(),
            1 => 'b IN ('.implode(', ', array_map(static fn (): string => $literal(), range(0, $values->getInt(0, 4)))).')',
            2 => "c BETWEEN {$literal()} AND {$literal()}",
            3 => "d - {$literal()} > f({$literal()}, e)",
            default => "g LIKE {$literal()} OR h IS NULL",
        };
        $table = 't'.$shape->getInt(1, 3);
        $where = $condition();
        for ($n = $shape->getInt(0, 3); $n > 0; $n--) {
            $where .= ' AND '.$condition();
        }

        return match ($shape->getInt(0, 3)) {
            0 => "SELECT {$column}, count(*) FROM {$table} WHERE {$where} GROUP BY {$column} LIMIT {$literal()}",
            1 => "SELECT x.{$column} FROM (SELECT {$column} FROM {$table} WHERE {$where}) x JOIN u ON u.id = x.{$column} ORDER BY 1",
            2 => "UPDATE {$table} SET {$column} = {$literal()} WHERE {$where}",
            default => "INSERT INTO {$table} ({$column}) VALUES ({$literal()}), ({$literal()})",
        };
    }
}
