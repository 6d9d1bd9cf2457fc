<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Practice\Sql\FunctionLibrary;
use Fulcrion\Practice\WarehouseError;
use PHPUnit\Framework\Attributes\DataProvider;

/**
 * Every function with its values, computed once as constants and once row by row, and what it does with NULL.
 */
final class FunctionsTest extends WarehouseTestCase
{
    /**
     * @return array<string, list<array{string, string}>> function => arguments, what is shown
     */
    private static function known(): array
    {
        return [
            'abs' => [['-3', '3'], ['3', '3'], ['-2.50', '2.50'], ['-0.5e0', '0.5']],
            'ceil' => [['2', '2'], ['2.1', '3'], ['-2.9', '-2'], ['2.5e0', '3'], ['-2.0', '-2']],
            'floor' => [['2', '2'], ['2.9', '2'], ['-2.1', '-3'], ['-2.5e0', '-3']],
            'round' => [
                ['2.5', '3'], ['-2.5', '-3'], ['2.449', '2'], ['2.445, 2', '2.45'], ['1234, -2', '1200'], ['1250, -2', '1300'],
                ['2.5e0', '3'], ['1.25e0, 1', '1.3'], ['7', '7'], ['7, 3', '7'],
            ],
            'sign' => [['-7', '-1'], ['0', '0'], ['0.25', '1'], ['-0.5e0', '-1']],
            'sqrt' => [['16', '4'], ['2.25', '1.5'], ['0', '0'], ['-1', 'NULL']],
            'power' => [['2, 10', '1024'], ['4, 0.5', '2'], ['-2, 3', '-8'], ['0, 0', '1'], ['2, -1', '0.5']],
            'exp' => [['0', '1'], ['1', '2.718281828459045']],
            'ln' => [['1', '0'], ['0', 'NULL'], ['-1', 'NULL']],
            'mod' => [['7, 3', '1'], ['-7, 3', '-1'], ['7, -3', '1'], ['7.5, 2', '1.5'], ['5, 0', 'NULL'], ['5.5e0, 2', '1.5']],
            'greatest' => [['3, 7, 5', '7'], ['1, 2.5', '2.5'], ["'a', 'b'", 'b'], ["DATE '2026-01-01', DATE '2025-12-31'", '2026-01-01']],
            'least' => [['3, 7, 5', '3'], ['1, 2.5', '1.0'], ["'a', 'B'", 'B']],
            'coalesce' => [['NULL, 4, 5', '4'], ['3', '3'], ["NULL, 'x'", 'x'], ['NULL, NULL', 'NULL']],
            'nullif' => [['3, 3', 'NULL'], ['3, 4', '3'], ["'a', 'A'", 'a']],
            'if' => [['1 < 2, 3, 4', '3'], ['1 > 2, 3, 4', '4'], ['NULL = 1, 3, 4', '4'], ["TRUE, 'x', NULL", 'x']],
            'upper' => [["'aB é'", 'AB É'], ["'straße'", 'STRASSE']],
            'lower' => [["'Ab É'", 'ab é']],
            'length' => [["'é'", '2'], ["''", '0']],
            'char_length' => [["'é𝄞'", '2'], ["''", '0']],
            'substring' => [["'abcdef', 3", 'cdef'], ["'abcdef', 3, 2", 'cd'], ["'éab', 1, 1", 'é'], ["'abc', 9", ''], ["'abc', -2", 'bc']],
            'left' => [["'abc', 2", 'ab'], ["'abc', 9", 'abc'], ["'abc', 0", ''], ["'éa', 1", 'é']],
            'right' => [["'abc', 2", 'bc'], ["'abc', 9", 'abc'], ["'abc', 0", ''], ["'aé', 1", 'é']],
            'trim' => [["'  a b  '", 'a b'], ["'xxaxx', 'x'", 'a'], ["'abab', 'ab'", '']],
            'ltrim' => [["'  a '", 'a '], ["'xxax', 'x'", 'ax']],
            'rtrim' => [["' a  '", ' a'], ["'xaxx', 'x'", 'xa']],
            'replace' => [["'abab', 'b', 'cc'", 'accacc'], ["'abc', '', 'x'", 'abc'], ["'abc', 'c', ''", 'ab']],
            'concat' => [["'a', 'b', 'c'", 'abc'], ["'a', 1, 2.50", 'a12.50'], ["'x'", 'x']],
            'concat_ws' => [["'-', 'a', 'b'", 'a-b'], ["', ', 1, 2", '1, 2'], ["'-', ''", '']],
            'position' => [["'b', 'abc'", '2'], ["'x', 'abc'", '0'], ["'é', 'aé'", '2'], ["'', 'abc'", '1']],
            'locate' => [["'b', 'abc'", '2'], ["'z', 'abc'", '0']],
            'instr' => [["'abc', 'b'", '2'], ["'abc', 'z'", '0']],
            'lpad' => [
                ["'7', 3, '0'", '007'], ["'abcd', 2, 'x'", 'ab'], ["'a', 6, 'xy'", 'xyxyxa'], ["'a', 3", '  a'], ["'a', 3, ''", 'NULL'],
            ],
            'rpad' => [["'7', 3, '0'", '700'], ["'a', 4, 'xy'", 'axyx'], ["'abc', 0, 'x'", '']],
            'reverse' => [["'aé𝄞'", '𝄞éa'], ["''", '']],
            'starts_with' => [["'abc', 'ab'", 'true'], ["'abc', 'bc'", 'false'], ["'abc', ''", 'true']],
            'year' => [["DATE '2026-11-23'", '2026'], ["TIMESTAMP '2026-11-23 10:20:30'", '2026'], ["'2026-11-23'", '2026']],
            'month' => [["DATE '2026-11-23'", '11']],
            'day' => [["DATE '2026-11-23'", '23']],
            'hour' => [["TIMESTAMP '2026-11-23 10:20:30'", '10'], ["DATE '2026-11-23'", '0']],
            'minute' => [["TIMESTAMP '2026-11-23 10:20:30'", '20']],
            'second' => [["TIMESTAMP '2026-11-23 10:20:30.9'", '30']],
            'quarter' => [["DATE '2026-11-23'", '4'], ["DATE '2026-03-31'", '1']],
            'week' => [["DATE '2026-11-23'", '48'], ["DATE '2027-01-03'", '53']],
            'doy' => [["DATE '2026-11-23'", '327'], ["DATE '2024-12-31'", '366']],
            'date' => [["TIMESTAMP '2026-11-23 23:59:59'", '2026-11-23'], ["'2026-11-23'", '2026-11-23']],
            'date_trunc' => [
                ["'month', DATE '2026-11-23'", '2026-11-01'], ["'week', DATE '2026-11-29'", '2026-11-23'],
                ["'quarter', DATE '2026-11-23'", '2026-10-01'], ["'YEAR', DATE '2026-11-23'", '2026-01-01'],
                ["'hour', TIMESTAMP '2026-11-23 10:20:30'", '2026-11-23 10:00:00'],
                ["'day', TIMESTAMP '2026-11-23 10:20:30'", '2026-11-23 00:00:00'],
            ],
            'datediff' => [["DATE '2026-11-23', DATE '2026-10-24'", '30'], ["DATE '2026-01-01', DATE '2026-01-02'", '-1']],
        ];
    }

    /**
     * @return iterable<string, array{string, string, string}>
     */
    public static function calls(): iterable
    {
        foreach (self::known() as $name => $list) {
            foreach ($list as [$arguments, $shown]) {
                yield "{$name}({$arguments})" => [$name, $arguments, $shown];
            }
        }
    }

    #[DataProvider('calls')]
    public function test_a_function_gives_its_value_as_a_constant_and_by_row(string $name, string $arguments, string $shown): void
    {
        self::assertSame($shown, $this->shown("SELECT {$name}({$arguments})"));
        // The same with each argument taken from a column of a table, so that nothing is known before.
        $parts = self::parts($arguments);
        if ($name === 'date_trunc' || $name === 'round' || in_array('NULL', $parts, true) || str_contains($arguments, '= 1')) {
            return;
        }
        $names = array_map(static fn (int $i): string => "c{$i}", array_keys($parts));
        $typed = array_map(
            static fn (string $part): string => in_array($name, ['year', 'date'], true) && $part[0] === "'" ? "DATE {$part}" : $part,
            $parts,
        );
        $this->sql('CREATE TABLE f PLACED EVENLY AS SELECT '.implode(', ', array_map(
            static fn (string $part, string $column): string => "{$part} AS {$column}",
            $typed,
            $names,
        )));
        self::assertSame($shown, $this->shown("SELECT {$name}(".implode(', ', $names).') FROM f'));
        if (! in_array($name, ['coalesce', 'nullif', 'if', 'concat_ws'], true)) {
            foreach (array_keys($names) as $i) {
                $with = $names;
                $with[$i] = "nullif(c{$i}, c{$i})";
                self::assertSame('NULL', $this->shown("SELECT {$name}(".implode(', ', $with).') FROM f'), 'NULL in, NULL out');
            }
        }
    }

    public function test_every_function_is_known_here(): void
    {
        self::assertEqualsCanonicalizing(FunctionLibrary::names(), array_keys(self::known()));
    }

    /**
     * @return iterable<string, array{string, string}> alias, the function it stands for
     */
    public static function aliases(): iterable
    {
        foreach (
            [
                'ceiling(2.1)|ceil(2.1)', 'pow(2, 3)|power(2, 3)', 'ifnull(NULL, 3)|coalesce(NULL, 3)', 'nvl(NULL, 3)|coalesce(NULL, 3)',
                "substr('abc', 2)|substring('abc', 2)", "ucase('a')|upper('a')", "lcase('A')|lower('A')",
                "character_length('é')|char_length('é')", 'log(1)|ln(1)', "octet_length('é')|length('é')",
                "dayofmonth(DATE '2026-11-23')|day(DATE '2026-11-23')", "dayofyear(DATE '2026-11-23')|doy(DATE '2026-11-23')",
                "weekofyear(DATE '2026-11-23')|week(DATE '2026-11-23')", "POSITION('b' IN 'abc')|position('b', 'abc')",
                "SUBSTRING('abc' FROM 2 FOR 1)|substring('abc', 2, 1)", "TRIM(LEADING 'x' FROM 'xax')|ltrim('xax', 'x')",
                "EXTRACT(YEAR FROM DATE '2026-11-23')|year(DATE '2026-11-23')", "'a' || 'b'|concat('a', 'b')", '7 % 3|mod(7, 3)',
            ] as $pair
        ) {
            // The last bar parts the two, since one of them is written with bars.
            $at = (int) strrpos($pair, '|');
            yield $pair => [substr($pair, 0, $at), substr($pair, $at + 1)];
        }
    }

    #[DataProvider('aliases')]
    public function test_another_name_gives_the_same(string $one, string $other): void
    {
        self::assertSame($this->shown("SELECT {$other}"), $this->shown("SELECT {$one}"));
    }

    /**
     * @return iterable<string, array{string, string}>
     */
    public static function mistakes(): iterable
    {
        yield 'no such function' => ['SELECT frobnicate(1)', 'There is no function frobnicate.'];
        yield 'too few' => ['SELECT replace(\'a\', \'b\')', 'The function replace takes 3 arguments, not 2.'];
        yield 'too many' => ['SELECT abs(1, 2)', 'The function abs takes 1 argument, not 2.'];
        yield 'between' => ["SELECT substring('a')", 'The function substring takes 2 or 3 arguments, not 1.'];
        yield 'at least' => ['SELECT greatest(1)', 'The function greatest takes at least 2 arguments, not 1.'];
        yield 'a text where a number is meant' => ["SELECT abs('x')", 'abs needs a number, not text.'];
        yield 'a number where a day is meant' => ['SELECT year(7)', 'A date or timestamp is needed here, not bigint.'];
        yield 'a fraction as a length' => ["SELECT left('abc', 1.5)", 'The function left takes a whole number as argument 2.'];
        yield 'a fraction as digits' => ['SELECT round(1.5, 0.5)', 'round takes a whole number of digits.'];
        $day = "DATE '2026-01-01'";
        yield 'a unit that is none' => ["SELECT date_trunc('fortnight', {$day})", 'date_trunc does not know the unit "fortnight"'];
        yield 'a unit that is no text' => ["SELECT date_trunc(1, {$day})", "date_trunc takes its unit as a text, such as 'day'."];
        yield 'a unit of EXTRACT' => ["SELECT EXTRACT(fortnight FROM DATE '2026-01-01')", 'EXTRACT does not know the unit "fortnight".'];
        yield 'a day and a number' => ["SELECT DATE '2026-01-01' + 1", 'A date or timestamp can only be moved by an INTERVAL.'];
        yield 'a day and a number side by side' => [
            "SELECT greatest(DATE '2026-01-01', 1)",
            'date and bigint cannot be compared or combined; CAST one of them.',
        ];
        yield 'too many digits' => [
            'SELECT 0.1234567890 * 0.123',
            'The result would have 13 digits behind the point; 12 are possible. CAST an operand to double or to fewer digits.',
        ];
    }

    #[DataProvider('mistakes')]
    public function test_a_wrong_call_is_refused_with_what_to_do(string $sql, string $message): void
    {
        try {
            $this->sql($sql);
            self::fail("{$sql} was answered");
        } catch (WarehouseError $error) {
            self::assertStringContainsString($message, $error->sealed());
        }
    }

    /** The one value of a statement, as people see it. */
    private function shown(string $sql): string
    {
        $outcome = $this->sql($sql);
        self::assertCount(1, $outcome->rows);

        return $outcome->columns[0]->type->show($outcome->rows[0][0]);
    }

    /**
     * @return list<string> arguments, apart from commas in texts
     */
    private static function parts(string $arguments): array
    {
        preg_match_all("~(?:'[^']*'|[^,'])+~", $arguments, $found);

        return array_map(trim(...), $found[0]);
    }
}
