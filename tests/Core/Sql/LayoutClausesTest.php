<?php

declare(strict_types=1);

namespace Tests\Core\Sql;

use Fulcrion\Core\Sql\Ast\CreateTable;
use Fulcrion\Core\Sql\FormerSpelling;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\SyntaxError;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class LayoutClausesTest extends TestCase
{
    /**
     * @return list<array{string, string, string}> in the order of printing, the same said otherwise, how it was written before
     */
    public static function layouts(): array
    {
        return [
            ['PLACED BY (bay)', 'placed by ( bay )', 'distribution = hash(bay)'],
            ['PLACED BY (bay, crew)', 'PLACED BY (bay,crew)', 'distribution = hash(bay, crew)'],
            ['PLACED EVENLY', 'placed evenly', 'distribution = even'],
            ['PLACED EVERYWHERE CHUNKS OF 25 ROWS', 'CHUNKS OF 25 ROWS PLACED EVERYWHERE', 'distribution = copy, chunk_rows = 25'],
            ['CUT BY DAY OF read_at', 'cut by day of read_at', "partition_by = range(read_at, 'day')"],
            [
                'CUT BY QUARTER OF read_at SORTED BY (a, b)',
                'SORTED BY (a, b) CUT BY QUARTER OF read_at',
                "partition_by = range(read_at, 'quarter'), clustering = (a, b)",
            ],
            ['CUT BY VALUE OF kind', 'CUT BY value OF kind', 'partition_by = list(kind)'],
            ['CUT EVERY 1000 OF id', 'cut every 1000 of id', 'partition_by = range(id, 1000)'],
            ['SORTED BY (read_at)', 'SORTED BY (read_at)', 'clustering = (read_at)'],
            ['SORTED BY CURVE (a, b)', 'sorted by curve (a, b)', 'clustering = hilbert(a, b)'],
            ['SORTED BY Z CURVE (a, b)', 'sorted by z curve (a, b)', 'clustering = zorder(a, b)'],
            [
                'ENCODED (read_at AS delta, kind AS dictionary) PACKED gzip 5',
                'PACKED GZIP 5 ENCODED (read_at AS DELTA, kind AS dictionary)',
                "encodings = 'read_at:delta, kind:dictionary', compression = gzip5",
            ],
            ['PACKED none', 'packed none', 'compression = none'],
            [
                'PLACED BY ("order") SORTED BY ("to")',
                'PLACED BY ("order") SORTED BY ("to")',
                'distribution = hash("order"), clustering = ("to")',
            ],
        ];
    }

    #[DataProvider('layouts')]
    public function test_clauses_come_in_any_order_and_are_printed_in_one(string $printed, string $said, string $former): void
    {
        foreach (["CREATE TABLE s.t (a bigint, z text) {$said}", "CREATE OR REPLACE TABLE t {$said} AS SELECT 1 AS a"] as $i => $sql) {
            $create = (new Parser())->statement($sql);
            self::assertInstanceOf(CreateTable::class, $create);
            self::assertSame($i === 1, $create->source !== null);
            self::assertSame(strlen($sql) - strlen((string) stristr($sql, $said)), $create->layout->at ?? null);
            $again = (new Printer())->statement($create);
            self::assertStringContainsString(" {$printed}", $again);
            self::assertSame($again, (new Printer())->statement((new Parser())->statement($again)), 'what is printed says the same');
        }
    }

    #[DataProvider('layouts')]
    public function test_the_former_spelling_is_refused_with_the_new_one_and_rewritten_where_it_was_kept(
        string $printed,
        string $said,
        string $former,
    ): void {
        $said = static fn (string $clauses): string => (new Printer())->statement(
            (new Parser())->statement("CREATE TABLE t (a bigint) {$clauses} AS SELECT a FROM u"),
        );
        try {
            (new Parser())->statement("CREATE TABLE t (a bigint)\nWITH ({$former})");
            self::fail('It was read.');
        } catch (SyntaxError $error) {
            self::assertSame([2, 1], [$error->lineNumber, $error->column]);
            self::assertStringContainsString('a table is laid out by clauses; instead of WITH (...) write ', $error->getMessage());
            $named = substr($error->getMessage(), (int) strpos($error->getMessage(), 'write ') + 6, -1);
            self::assertSame($said($printed), $said($named));
        }
        $kept = FormerSpelling::rewritten("CREATE TABLE t (a bigint) WITH ({$former}) AS SELECT a FROM u");
        self::assertStringNotContainsString('WITH', $kept);
        self::assertSame($said($printed), (new Printer())->statement((new Parser())->statement($kept)));
        self::assertSame($kept, FormerSpelling::rewritten($kept));
        self::assertSame('CREATE OR REPLACE TABLE t '.$named, FormerSpelling::rewritten("CREATE OR REPLACE TABLE t WITH ({$former})"));
    }

    public function test_other_statements_stay_as_they_are(): void
    {
        foreach (
            [
                'CREATE TABLE t AS WITH x AS (SELECT 1 AS a) SELECT a FROM x',
                'CREATE VIEW v AS SELECT 1',
                "COPY t FROM 'a.csv' WITH (format = csv)",
                'MAINTAIN TABLE t WITH (action = compact)',
                'CREATE LOOKUP s.l WITH (key = a) AS SELECT a, b FROM t',
                'RENAME TABLE a TO b',
                '',
                'not SQL at all \'',
            ] as $sql
        ) {
            self::assertSame($sql, FormerSpelling::rewritten($sql));
        }
    }

    /**
     * @return list<array{string, string}> clauses, what is wrong
     */
    public static function wrong(): array
    {
        return [
            ['PLACED bay', 'expected BY (columns), EVENLY or EVERYWHERE behind PLACED, found "bay"'],
            ['PLACED BY bay', 'expected "(", found "bay"'],
            ['PLACED BY ()', 'expected a column, found ")"'],
            ['PLACED EVENLY PLACED EVENLY', 'PLACED is said twice'],
            ['CUT DAY OF a', 'expected BY or EVERY behind CUT, found "DAY"'],
            ['CUT BY HOUR OF a', 'expected VALUE, DAY, WEEK, MONTH, QUARTER, YEAR behind CUT BY, found "HOUR"'],
            ['CUT BY DAY a', 'expected OF and a column in CUT, found "a"'],
            ['CUT EVERY 0 OF a', 'expected a width, a whole number above 0, found "0"'],
            ['CUT EVERY 1.5 OF a', 'expected a width, a whole number above 0, found "1.5"'],
            ['SORTED (a)', 'expected BY behind SORTED, found "("'],
            ['SORTED BY CURVE (a, b, c)', 'a curve runs through two columns'],
            ['CHUNKS OF 1000001 ROWS', 'expected a number of rows from 1 to 1 000 000, found "1000001"'],
            ['CHUNKS OF many ROWS', 'expected a number of rows from 1 to 1 000 000, found "many"'],
            ['CHUNKS OF 10', 'expected ROWS behind the number of rows of a chunk, found the end'],
            ['ENCODED (a delta)', 'expected AS behind a in ENCODED, found "delta"'],
            ['PACKED 5', 'expected a compression, found "5"'],
        ];
    }

    #[DataProvider('wrong')]
    public function test_what_is_wrong_is_named_at_its_place(string $clauses, string $problem): void
    {
        $this->expectExceptionMessage("{$problem}.");
        $this->expectException(SyntaxError::class);
        (new Parser())->statement("CREATE TABLE t (a bigint, b bigint) {$clauses}");
    }
}
