<?php

declare(strict_types=1);

namespace Tests\Core\Sql;

use Fulcrion\Core\Sql\Aggregates;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Names\NameScope;
use Fulcrion\Core\Sql\Names\TableNames;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class NamesTest extends TestCase
{
    /** @return NameScope<string> */
    private static function scope(): NameScope
    {
        $outer = new NameScope([['o', [['id', 'o.id'], ['far', 'o.far']]]]);

        return new NameScope(
            [['A', [['id', 'a.id'], ['Name', 'a.name']]], ['b', [['id', 'b.id'], ['name', 'b.name'], ['kilos', 'b.kilos']]]],
            $outer,
            ['id' => ['a.id']],
        );
    }

    public function test_a_name_means_the_nearest_columns_and_says_when_there_are_two(): void
    {
        $scope = self::scope();
        self::assertSame(['b.kilos'], $scope->find(['KILOS']));
        self::assertSame(['a.name', 'b.name'], $scope->find(['name']));
        self::assertSame(['a.name'], $scope->find(['a', 'name']));
        self::assertSame(['b.name'], $scope->find(['s', 'B', 'Name']), 'a schema in front of the table changes nothing');
        self::assertSame(['a.id'], $scope->find(['id']), 'of USING there is one');
        self::assertSame(['b.id'], $scope->find(['b', 'id']));
        self::assertSame(['o.far'], $scope->find(['far']), 'further out where nothing here has it');
        self::assertSame(['o.id'], $scope->find(['o', 'id']));
        self::assertSame([], $scope->here(['far']));
        self::assertSame([], $scope->find(['nowhere']));
    }

    public function test_a_star_gives_each_column_once(): void
    {
        $scope = self::scope();
        self::assertSame(['a.id', 'a.name', 'b.name', 'b.kilos'], array_column($scope->star([]) ?? [], 2));
        self::assertSame(['b.id', 'b.name', 'b.kilos'], array_column($scope->star(['b']) ?? [], 2));
        self::assertNull($scope->star(['c']));
        self::assertNull((new NameScope())->star([]));
    }

    public function test_groups_and_orders_name_things_of_the_list(): void
    {
        $query = (new Parser())->statement('SELECT b.kilos AS k, id, name AS kilos FROM b GROUP BY 1, k, kilos, 4 ORDER BY 2, K, id + 1');
        assert($query instanceof Ast\Query && $query->body instanceof Ast\Select);
        $grouped = array_map(
            static fn (Ast\Expression $e): ?string => ($meant = self::scope()->grouped($e, $query->body->items)) === null
                ? null
                : (new Printer())->expression($meant),
            $query->body->groupBy,
        );
        self::assertSame(['b.kilos', 'b.kilos', 'kilos', null], $grouped, 'a column here comes before an alias; the fourth is not there');
        self::assertSame(
            [1, 0, null],
            array_map(static fn ($key): ?int => NameScope::ordered($key->value, ['k', 'id', 'kilos']), $query->orderBy),
        );
    }

    public function test_tables_are_found_in_the_chosen_schema_or_nowhere(): void
    {
        self::assertSame(['people', 'crew'], TableNames::resolve(['Crew'], 'People'));
        self::assertSame(['field', 'pick'], TableNames::resolve(['cluster', 'Field', 'PICK'], 'people'));
        self::assertNull(TableNames::resolve(['crew'], ''));
        self::assertSame(['people.crew', 'crew'], [TableNames::path(['crew'], 'people'), TableNames::path(['Crew'], '')]);
    }

    /**
     * @return iterable<string, array{string, string}>
     */
    public static function qualified(): iterable
    {
        yield 'a table' => ['SELECT id FROM crew', 'SELECT id FROM s.crew AS crew'];
        yield 'one that is named in full' => ['SELECT id FROM t.crew AS c', 'SELECT id FROM t.crew AS c'];
        yield 'columns named by the table' => ['SELECT crew.id FROM crew', 'SELECT crew.id FROM s.crew AS crew'];
        yield 'in a subquery' => [
            'SELECT id FROM t.x WHERE id IN (SELECT id FROM days)',
            'SELECT id FROM t.x WHERE id IN (SELECT id FROM s.days AS days)',
        ];
        yield 'a common table is none' => [
            'WITH crew AS (SELECT id FROM crew) SELECT id FROM crew',
            'WITH crew AS (SELECT id FROM s.crew AS crew) SELECT id FROM crew',
        ];
        yield 'nor within the next one' => [
            'WITH a AS (SELECT id FROM days), b AS (SELECT id FROM a) SELECT id FROM b JOIN days USING (id)',
            'WITH a AS (SELECT id FROM s.days AS days), b AS (SELECT id FROM a) SELECT id FROM b JOIN s.days AS days USING (id)',
        ];
    }

    #[DataProvider('qualified')]
    public function test_a_query_is_written_with_its_schemas(string $sql, string $expected): void
    {
        $query = (new Parser())->statement($sql);
        assert($query instanceof Ast\Query);
        self::assertSame($expected, (new Printer())->statement(TableNames::qualified($query, 's')));
    }

    public function test_the_owner_of_a_column_is_the_first_table_that_has_it(): void
    {
        $tables = ['s.a' => ['id' => 1, 'x' => 1], 's.b' => ['id' => 1, 'y' => 1]];
        $owner = static fn (string ...$parts): ?string => TableNames::owner(
            new Ast\ColumnName(0, array_values($parts)),
            ['p' => 's.a', 'q' => 's.b', 'r' => null],
            $tables,
        );
        self::assertSame(
            ['p', 'q', 'q', 'p', null, null, null],
            [$owner('id'), $owner('Q', 'ID'), $owner('y'), $owner('p', 'x'), $owner('p', 'y'), $owner('z'), $owner('r', 'id')],
        );
    }

    public function test_every_aggregate_either_adds_up_or_shows_values_and_is_known_as_one(): void
    {
        foreach (Aggregates::SUMS as $name) {
            self::assertTrue(Aggregates::isName($name), $name);
        }
        foreach (['min', 'max', 'string_agg', 'any_value', 'median'] as $name) {
            self::assertTrue(Aggregates::isName($name), $name);
            self::assertNotContains($name, Aggregates::SUMS, "{$name} shows a value of a row");
        }
        self::assertSame([], array_filter(Aggregates::PLAIN, static fn (string $name): bool => ! Aggregates::isName($name)));
        $query = (new Parser())->statement('SELECT sum(a) + max(b), count(*) OVER (), upper(c), (SELECT avg(d) FROM x) FROM t');
        assert($query instanceof Ast\Query && $query->body instanceof Ast\Select);
        self::assertSame(['sum', 'max'], array_map(static fn (Ast\Call $call): string => $call->name, Aggregates::in($query->body->items)));
    }
}
