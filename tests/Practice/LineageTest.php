<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Lineage\TableOrigins;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\TableCopy;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;
use PHPUnit\Framework\Attributes\DataProvider;

/**
 * What the practice cluster knows of where the rows of a table come from, and what its errors tell.
 */
final class LineageTest extends WarehouseTestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        foreach (
            [
                'CREATE TABLE crew (id bigint, name text, wage bigint, region text)',
                "INSERT INTO crew VALUES (1, 'ada', 10, 'north'), (2, 'bo', 20, 'south'), (3, 'cy', 30, 'north')",
                'CREATE TABLE day (id bigint, note text)',
                "INSERT INTO day VALUES (1, 'mon'), (2, 'tue')",
            ] as $sql
        ) {
            $this->sql($sql);
        }
    }

    /**
     * In short: "crew{own=source own~computed} [deciding] (own that tells the row)", former names with a star.
     *
     * @return list<string>
     */
    private function origins(string $table, ?Warehouse $warehouse = null): array
    {
        [$schema, $name] = str_contains($table, '.') ? explode('.', $table) : ['s', $table];
        $origins = ($warehouse ?? $this->warehouse)->table($schema, $name)?->origins() ?? self::fail("There is no {$table}.");
        $lines = [];
        foreach ($origins->list() as $one) {
            $flows = [];
            foreach ($one['columns'] as $own => $sources) {
                foreach ($sources as $source => $isCopy) {
                    $flows[] = "{$own}".($isCopy ? '=' : '~').$source;
                }
            }
            $row = implode(' ', array_keys($one['row']));
            $conditions = implode(' ', $one['conditions']);
            $lines[] =
                ($one['former'] ? '*' : '').
                ($one['cluster'] === '' ? '' : "{$one['cluster']}:").
                substr($one['path'], 2).
                '{'.
                implode(' ', $flows).
                '}'.
                ($conditions === '' ? '' : " [{$conditions}]").
                ($row === '' ? '' : " ({$row})");
        }
        sort($lines);

        return $lines;
    }

    /**
     * @return iterable<string, array{string, list<string>}>
     */
    public static function made(): iterable
    {
        yield 'a copy' => ['SELECT * FROM crew', ['crew{id=id name=name wage=wage region=region} (id name wage region)']];
        yield 'named anew' => ['SELECT c.w AS pay FROM crew AS c (i, n, w, r)', ['crew{pay=wage} (pay)']];
        yield 'computed' => ["SELECT id, concat(name, '-', wage) AS both FROM crew", ['crew{id=id both~name both~wage} (id)']];
        yield 'a condition decides' => ['SELECT id FROM crew WHERE wage > 15', ['crew{id=id} [wage] (id)']];
        yield 'the order decides where there is a limit' => ['SELECT id FROM crew ORDER BY wage LIMIT 1', ['crew{id=id} [wage] (id)']];
        yield 'the order alone decides nothing' => ['SELECT id FROM crew ORDER BY wage', ['crew{id=id} (id)']];
        yield 'two tables' => [
            'SELECT c.name, d.note FROM crew AS c JOIN day AS d ON d.id = c.id',
            ['crew{name=name} [id] (name)', 'day{note=note} [id] (note)'],
        ];
        yield 'groups' => ['SELECT region, sum(wage) AS pay FROM crew GROUP BY region', ['crew{region=region pay~wage} (region)']];
        yield 'a group by something computed' => [
            'SELECT upper(region) AS r, count(*) AS n FROM crew GROUP BY upper(region)',
            ['crew{r~region}'],
        ];
        yield 'only a number of rows' => ['SELECT count(*) AS n FROM crew', ['crew{}']];
        yield 'through a query in between' => ['WITH q (a, b) AS (SELECT id, wage FROM crew) SELECT b + 1 AS c FROM q', ['crew{c~wage}']];
        yield 'one value of all rows beside each' => [
            'SELECT d.note, (SELECT max(wage) FROM crew) AS most FROM day AS d',
            ['crew{most~wage}', 'day{note=note} (note)'],
        ];
        yield 'looked up' => [
            'SELECT note FROM day WHERE id IN (SELECT id FROM crew WHERE wage > 1)',
            ['crew{} [wage id]', 'day{note=note} [id] (note)'],
        ];
        yield 'over other rows' => ['SELECT id, region, max(name) OVER () AS last FROM crew', ['crew{id=id region=region last~name}']];
        yield 'beside itself' => [
            'SELECT a.region, b.name FROM crew AS a JOIN crew AS b ON a.id < b.id',
            ['crew{region=region name=name} [id]'],
        ];
        yield 'one of two tables' => [
            'SELECT id, name FROM crew UNION ALL SELECT id, note FROM day',
            ['crew{id=id name=name} (id name)', 'day{id=id name=note} (id name)'],
        ];
        yield 'values alone' => ['SELECT 1 AS id', []];
    }

    /**
     * @param  list<string>  $expected
     */
    #[DataProvider('made')]
    public function test_a_table_knows_what_flowed_into_its_columns(string $query, array $expected): void
    {
        $this->sql("CREATE TABLE made AS {$query}");
        self::assertSame($expected, $this->origins('made'));
        $columns = implode(
            ', ',
            array_map(
                static fn ($column): string => "{$column->name} {$column->type}",
                $this->warehouse->table('s', 'made')?->manifest()->definition->columns ?? [],
            ),
        );
        $this->sql("CREATE TABLE filled ({$columns})");
        self::assertSame([], $this->origins('filled'), 'nothing is in it yet');
        $this->sql("INSERT INTO filled {$query}");
        self::assertSame($expected, $this->origins('filled'), 'by whatever statement it came');
    }

    public function test_origins_are_flat_so_that_dropping_what_was_in_between_loses_nothing(): void
    {
        $this->sql('CREATE TABLE one AS SELECT id, wage AS pay, region AS r FROM crew WHERE name IS NOT NULL');
        $this->sql('CREATE TABLE two AS SELECT pay * 2 AS double, r FROM one');
        $this->sql('DROP TABLE one');
        self::assertSame(['crew{double~wage r=region} [name] (r)', 'one{double~pay r=r} (r)'], $this->origins('two'));
    }

    public function test_what_comes_by_two_ways_need_not_be_of_one_row(): void
    {
        $this->sql('CREATE TABLE one AS SELECT id, region FROM crew');
        $this->sql('CREATE TABLE two AS SELECT o.region, c.name FROM one AS o, crew AS c');
        self::assertSame(
            ['crew{name=name region=region}', 'one{region=region} (region)'],
            array_map(
                static fn (string $line): string => str_replace('region=region name=name', 'name=name region=region', $line),
                $this->origins('two'),
            ),
        );
    }

    public function test_rows_added_otherwise_take_away_what_told_the_rows(): void
    {
        $this->sql('CREATE TABLE made AS SELECT region, name FROM crew');
        $this->sql('INSERT INTO made SELECT region, name FROM crew');
        self::assertSame(['crew{region=region name=name} (region name)'], $this->origins('made'), 'the same once more changes nothing');
        $this->sql("INSERT INTO made SELECT 'north', name FROM crew");
        self::assertSame(['crew{region=region name=name} (name)'], $this->origins('made'));
        $this->sql("INSERT INTO made VALUES ('south', 'dot')");
        self::assertSame(['crew{region=region name=name} (name)'], $this->origins('made'), 'typed values come from nowhere');
    }

    public function test_columns_that_are_set_flow_and_tell_no_row_any_more(): void
    {
        $this->sql('CREATE TABLE made AS SELECT id, name, wage, region FROM crew');
        $this->sql('UPDATE made SET region = concat(name, id) WHERE wage > 10');
        self::assertSame(
            [
                'crew{id=id name=name wage=wage region=region region~wage region~name region~id} (id name wage)',
                'made{region~wage region~name region~id}',
            ],
            $this->origins('made'),
        );
        $this->sql("UPDATE made SET name = 'x'");
        self::assertStringEndsWith('(id wage)', $this->origins('made')[0]);
        $this->sql('CREATE TABLE next AS SELECT region AS r FROM made');
        self::assertContains('crew{r=region r~wage r~name r~id}', $this->origins('next'), 'what was set flows on');
        $this->sql('UPDATE crew SET region = name');
        self::assertSame(['crew{region=name}'], $this->origins('crew'), 'within one table as well');
    }

    public function test_a_new_name_is_remembered_and_a_helper_name_is_none(): void
    {
        $this->sql('RENAME TABLE crew TO folk');
        self::assertSame(['*crew{id=id name=name wage=wage region=region} (id name wage region)'], $this->origins('folk'));
        $this->sql('CREATE TABLE made AS SELECT name FROM folk');
        self::assertSame(['crew{name=name} (name)', 'folk{name=name} (name)'], $this->origins('made'));
        $this->sql('CREATE TABLE folk__new_1 AS SELECT * FROM folk');
        $this->sql('RENAME TABLE folk TO folk__kept_1, folk__new_1 TO folk');
        foreach ($this->origins('folk') as $line) {
            self::assertStringNotContainsString('__', $line);
        }
        self::assertContains('crew{id=id name=name wage=wage region=region} (id name wage region)', $this->origins('folk'));
    }

    public function test_a_copy_on_another_cluster_names_where_it_came_from(): void
    {
        $away = Warehouse::create("{$this->root}-away", 'Away', 2, new HardwareProfile());
        try {
            $away->createSchema('t');
            (new TableCopy($away))->copy(
                $this->warehouse->table('s', 'crew') ?? self::fail(),
                $this->warehouse,
                ['t', 'copy'],
                1.0,
                1,
                static function (): void {
                },
            );
            $lines = $this->origins('t.copy', $away);
            self::assertCount(1, $lines);
            self::assertSame(basename($this->root).':crew{id=id name=name wage=wage region=region} (id name wage region)', $lines[0]);
            (new Engine($away))->run('CREATE TABLE next AS SELECT wage FROM copy', new Session('t', 'x', self::NOW), $this->limits());
            self::assertContains(basename($this->root).':crew{wage=wage} (wage)', $this->origins('t.next', $away));
        } finally {
            $away->destroy();
        }
    }

    public function test_a_view_is_a_source_beside_the_tables_below_it(): void
    {
        $this->sql('CREATE VIEW list (who, pay) AS SELECT name, wage * 12 FROM crew');
        $this->sql('CREATE TABLE made AS SELECT who, pay FROM list');
        self::assertSame(['crew{who=name pay~wage} (who)', 'list{who=who pay=pay} (who pay)'], $this->origins('made'));
    }

    public function test_what_is_kept_reads_back_as_it_was(): void
    {
        $this->sql('CREATE TABLE made AS SELECT c.region, d.note FROM crew AS c JOIN day AS d ON c.id = d.id');
        $origins = $this->warehouse->table('s', 'made')?->origins() ?? self::fail();
        self::assertTrue(TableOrigins::read($origins->list())->same($origins));
        self::assertFalse(TableOrigins::none()->same($origins));
    }

    public function test_a_view_means_what_it_meant_when_it_was_stored(): void
    {
        $this->warehouse->createSchema('scratch');
        $this->sql('CREATE VIEW list AS SELECT name FROM crew AS c WHERE id IN (SELECT id FROM day)');
        $this->engine->run('CREATE TABLE scratch.crew (id bigint, name text)', new Session('s', 'x', self::NOW), $this->limits());
        $this->engine->run("INSERT INTO scratch.crew VALUES (1, 'other')", new Session('s', 'x', self::NOW), $this->limits());
        self::assertSame(
            [['ada'], ['bo']],
            $this->engine->run('SELECT name FROM s.list ORDER BY name', new Session('scratch', 'x', self::NOW), $this->limits())->rows,
            'whatever schema its reader has chosen',
        );
        $this->sql('CREATE VIEW outer_list AS SELECT name FROM list');
        self::assertSame(
            [['ada'], ['bo']],
            $this->engine->run('SELECT name FROM s.outer_list ORDER BY name', new Session('scratch', 'x', self::NOW), $this->limits())
                ->rows,
        );
        self::assertStringContainsString('s.crew', (string) $this->warehouse->view('s', 'list'), 'names are stored in full');
    }

    /**
     * @return iterable<string, array{string, string}>
     */
    public static function failing(): iterable
    {
        yield 'a cast' => ['SELECT CAST(name AS bigint) FROM crew', 'ada'];
        yield 'a cast to a day' => ['SELECT CAST(region AS date) FROM crew', 'north'];
        yield 'a lookup of what is not unique' => ['CREATE LOOKUP l WITH (key = region) AS SELECT region, name FROM crew', 'north'];
        yield 'a rollup' => [
            'CREATE ROLLUP s.r AS SELECT CAST(name AS bigint) AS n, count(*) AS c FROM s.crew GROUP BY CAST(name AS bigint)',
            'ada',
        ];
        yield 'a value that does not fit' => ['INSERT INTO day SELECT CAST(name AS bigint), region FROM crew', 'ada'];
    }

    #[DataProvider('failing')]
    public function test_errors_name_no_value_unless_they_are_unsealed(string $sql, string $value): void
    {
        try {
            $this->sql($sql);
            self::fail("{$sql} went through.");
        } catch (WarehouseError $error) {
            self::assertStringNotContainsString($value, $error->getMessage());
            self::assertNotSame('', $error->getMessage());
            self::assertStringContainsString($value, $error->sealed(), 'the full text is there for the record');
        }
    }

    public function test_what_would_fail_for_rows_that_are_not_changed_is_not_worked_out(): void
    {
        self::assertSame(
            '1 row changed.',
            $this->sql("UPDATE crew SET wage = CAST(replace(name, 'ada', '5') AS bigint) WHERE id = 1")->message,
        );
        self::assertSame([[5], [20], [30]], $this->rows('SELECT wage FROM crew ORDER BY id'));
        $this->expectException(WarehouseError::class);
        $this->sql('UPDATE crew SET wage = CAST(name AS bigint) WHERE id = 2');
    }

    public function test_a_careful_session_asks_conditions_that_can_fail_where_they_were_written(): void
    {
        $this->sql('CREATE TABLE code (id bigint, value text)');
        $this->sql("INSERT INTO code VALUES (1, '7'), (2, 'x')");
        // The inner query keeps the row that cannot be cast away; the join must not pull the cast down to it.
        $sql =
            'SELECT q.id FROM (SELECT id, value FROM code WHERE id = 1) AS q JOIN day AS d ON d.id = q.id WHERE CAST(q.value AS bigint) '
                .'= 7';
        self::assertSame([[1]], $this->engine->run($sql, new Session('s', 'x', self::NOW, true), $this->limits())->rows);
    }

    public function test_conditions_carried_over_a_join_stay_with_their_own_table(): void
    {
        $sql = 'SELECT x.id FROM crew AS x JOIN day AS y ON x.id = y.id WHERE x.id > (SELECT min(i.id) FROM day AS i)';
        self::assertSame([[2]], $this->rows($sql), 'x and y are 1 and 2, and the least is 1');
        self::assertSame(
            [[1], [2]],
            $this->rows('SELECT v.a FROM (VALUES ((SELECT min(id) FROM crew)), (2)) AS v (a) ORDER BY 1'),
            'a query stands where a value stands',
        );
    }
}
