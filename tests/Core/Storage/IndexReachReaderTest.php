<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Storage\Indexes\IndexedTable;
use Fulcrion\Core\Storage\Indexes\IndexReach;
use Fulcrion\Core\Storage\Indexes\IndexReachReader;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * What a statement asks an index for, statement by statement.
 */
final class IndexReachReaderTest extends TestCase
{
    /**
     * @return iterable<string, array{string, array<string, array{list<string>, list<string>, list<string>, list<string>}>}> by table:
     *     equal, ranges, order, grouped
     */
    public static function statements(): iterable
    {
        yield 'a value' => ['SELECT id FROM pick WHERE bay = 7', ['glass.pick' => [['bay'], [], [], []]]];
        yield 'a value first' => ['SELECT id FROM pick WHERE 7 = bay', ['glass.pick' => [['bay'], [], [], []]]];
        yield 'values' => ['SELECT id FROM pick WHERE bay IN (1, 2)', ['glass.pick' => [['bay'], [], [], []]]];
        yield 'none of some values' => ['SELECT id FROM pick WHERE bay NOT IN (1, 2)', ['glass.pick' => [[], [], [], []]]];
        yield 'nothing' => ['SELECT id FROM pick WHERE bay IS NULL', ['glass.pick' => [['bay'], [], [], []]]];
        yield 'something' => ['SELECT id FROM pick WHERE bay IS NOT NULL', ['glass.pick' => [[], [], [], []]]];
        yield 'spans' => [
            'SELECT id FROM pick WHERE kilos > 3 AND bay <= 4 AND 5 >= id AND grade < \'b\'',
            ['glass.pick' => [[], ['kilos', 'bay', 'id', 'grade'], [], []]],
        ];
        yield 'between' => ['SELECT id FROM pick WHERE kilos BETWEEN 1 AND 2', ['glass.pick' => [[], ['kilos'], [], []]]];
        yield 'not between' => ['SELECT id FROM pick WHERE kilos NOT BETWEEN 1 AND 2', ['glass.pick' => [[], [], [], []]]];
        yield 'how it begins' => ["SELECT id FROM pick WHERE grade LIKE 'a%'", ['glass.pick' => [[], ['grade'], [], []]]];
        yield 'what it contains' => ["SELECT id FROM pick WHERE grade LIKE '%a'", ['glass.pick' => [[], [], [], []]]];
        yield 'any letter' => ["SELECT id FROM pick WHERE grade LIKE '_a'", ['glass.pick' => [[], [], [], []]]];
        yield 'not how it begins' => ["SELECT id FROM pick WHERE grade NOT LIKE 'a%'", ['glass.pick' => [[], [], [], []]]];
        yield 'a value and a span of one' => ['SELECT id FROM pick WHERE bay = 7 AND bay > 3', ['glass.pick' => [['bay'], [], [], []]]];
        yield 'either' => ['SELECT id FROM pick WHERE bay = 7 OR id = 3', ['glass.pick' => [[], [], [], []]]];
        yield 'of an expression' => ['SELECT id FROM pick WHERE bay + 1 = 7', ['glass.pick' => [[], [], [], []]]];
        yield 'in an order' => [
            'SELECT id FROM pick WHERE bay = 7 ORDER BY kilos DESC, id DESC', ['glass.pick' => [['bay'], [], ['kilos', 'id'], []]],
        ];
        yield 'in two directions' => ['SELECT id FROM pick ORDER BY kilos DESC, id', ['glass.pick' => [[], [], [], []]]];
        yield 'in the order of an expression' => ['SELECT id FROM pick ORDER BY kilos, id + 1', ['glass.pick' => [[], [], [], []]]];
        yield 'in groups' => ['SELECT bay, count(*) FROM pick GROUP BY bay', ['glass.pick' => [[], [], [], ['bay']]]];
        yield 'in groups of more' => ['SELECT count(*) FROM pick GROUP BY bay, kilos + 1', ['glass.pick' => [[], [], [], []]]];
        yield 'a join' => [
            'SELECT p.id FROM pick p JOIN bay b ON b.id = p.bay WHERE b.name = \'north\' AND p.kilos > 2',
            ['glass.pick' => [['bay'], ['kilos'], [], []], 'glass.bay' => [['id', 'name'], [], [], []]],
        ];
        yield 'a join by names of the tables' => [
            'SELECT 1 FROM pick, bay WHERE pick.bay = bay.id',
            ['glass.pick' => [['bay'], [], [], []], 'glass.bay' => [['id'], [], [], []]],
        ];
        yield 'in the order of another table' => [
            'SELECT p.id FROM pick p JOIN bay b ON b.id = p.bay ORDER BY b.name',
            ['glass.pick' => [['bay'], [], [], []], 'glass.bay' => [['id'], [], ['name'], []]],
        ];
        yield 'a change' => ['UPDATE pick SET kilos = 0 WHERE bay = 7 AND kilos < 3', ['glass.pick' => [['bay'], ['kilos'], [], []]]];
        yield 'a deletion' => ['DELETE FROM glass.pick WHERE bay = 7', ['glass.pick' => [['bay'], [], [], []]]];
        yield 'a change of all' => ['UPDATE pick SET kilos = 0', []];
        yield 'another table' => ['SELECT id FROM elsewhere.pick WHERE bay = 7', []];
        yield 'no statement' => ['SELECT FROM WHERE', []];
        yield 'one within another' => [
            'SELECT id FROM pick WHERE bay IN (SELECT id FROM bay WHERE name = \'north\')',
            // What another query gives may be few values or all of them.
            ['glass.pick' => [[], [], [], []], 'glass.bay' => [['name'], [], [], []]],
        ];
    }

    /**
     * @param  array<string, array{list<string>, list<string>, list<string>, list<string>}>  $expected
     */
    #[DataProvider('statements')]
    public function test_columns_are_found_by_what_is_asked_of_them(string $sql, array $expected): void
    {
        $found = [];
        foreach ($this->reader()->read($sql, 'glass') as $reach) {
            $found[$reach->table] = [$reach->equal, $reach->ranges, $reach->order, $reach->grouped];
        }
        ksort($found);
        ksort($expected);
        self::assertSame($expected, $found);
    }

    public function test_values_are_known_where_they_are_written(): void
    {
        $values = fn (string $where): array => $this->reach("SELECT id FROM pick WHERE {$where}")->values;
        self::assertSame(['bay' => ['7']], $values('bay = 7'));
        self::assertSame(['grade' => ['a']], $values("'a' = grade"));
        self::assertSame(['bay' => ['1', '2']], $values('bay IN (1, 2)'));
        self::assertSame([], $values('bay IN (1, id)'), 'not all of them');
        self::assertSame([], $values('bay = id + 1'));
        self::assertSame(['bay' => ['']], $values('bay IS NULL'), 'as it is counted');
        self::assertSame(['bay' => ['7']], $values('bay = 7 AND bay = 8'), 'the first');
        self::assertSame([], $values('kilos > 3'));
    }

    public function test_what_has_to_be_there_is_read_as_a_join(): void
    {
        $told = fn (string $where): array => array_map(
            static fn (IndexReach $one): array => [$one->alias, $one->equal, $one->joins, $one->after],
            $this->reader()->queries("SELECT p.id FROM pick p WHERE p.grade = 'a' AND {$where}", 'glass')[0]->members,
        );
        $pick = ['p', ['grade', 'bay'], ['bay' => ['b']], []];
        $bay = static fn (array $after): array => ['b', ['id', 'name'], ['id' => ['p']], $after];
        $exists = "EXISTS (SELECT 1 FROM bay b WHERE b.id = p.bay AND b.name = 'north')";
        self::assertSame([$pick, $bay([])], $told($exists));
        self::assertSame([$pick, $bay(['p'])], $told("NOT {$exists}"), 'what must not be there is looked for last');
        $in = "p.bay IN (SELECT b.id FROM bay b WHERE b.name = 'north')";
        self::assertEqualsCanonicalizing($pick[1], $told($in)[0][1]);
        self::assertSame(['bay' => ['b']], $told($in)[0][2]);
        self::assertSame(['p'], $told("p.bay NOT IN (SELECT b.id FROM bay b WHERE b.name = 'north')")[1][3]);
        $left = $this->reader()->queries('SELECT p.id FROM pick p LEFT JOIN bay b ON b.id = p.bay WHERE b.id IS NULL', 'glass')[0];
        self::assertSame(['b', ['id'], ['id' => ['p']], ['p']], [
            $left->members[1]->alias, $left->members[1]->equal, $left->members[1]->joins, $left->members[1]->after,
        ]);
        // Whose column a bare name is cannot be told here; groups, limits and equal names are left alone.
        foreach (
            [
                'EXISTS (SELECT 1 FROM bay b WHERE id = p.bay)',
                'p.bay IN (SELECT b.id FROM bay b GROUP BY b.id)',
                'p.bay IN (SELECT b.id FROM bay b LIMIT 3)',
                'EXISTS (SELECT 1 FROM pick p WHERE p.kilos = 3)',
            ] as $where
        ) {
            self::assertSame([['p', ['grade'], [], []]], $told($where), $where);
        }
    }

    public function test_all_columns_that_are_looked_at_are_read(): void
    {
        $read = fn (string $sql): array => $this->reach($sql)->read;
        self::assertEqualsCanonicalizing(['id', 'bay', 'kilos', 'grade'], $read('SELECT * FROM pick WHERE bay = 7'));
        self::assertEqualsCanonicalizing(['id', 'bay', 'kilos', 'grade'], $read('SELECT p.* FROM pick p WHERE p.bay = 7'));
        self::assertEqualsCanonicalizing(['bay'], $read('SELECT b.* FROM pick p JOIN bay b ON b.id = p.bay'));
        self::assertEqualsCanonicalizing(
            ['id', 'bay', 'kilos', 'grade'],
            $read('SELECT id FROM pick WHERE bay = 7 GROUP BY id HAVING max(kilos) > 2 ORDER BY grade'),
        );
        self::assertEqualsCanonicalizing(['bay'], $read('SELECT count(*) FROM pick WHERE bay = 7'));
        self::assertEqualsCanonicalizing(['bay'], $read('SELECT BAY FROM pick WHERE PICK.Bay = 7'), 'names in any letters');
    }

    private function reach(string $sql): IndexReach
    {
        foreach ($this->reader()->read($sql, 'glass') as $reach) {
            if ($reach->table === 'glass.pick') {
                return $reach;
            }
        }
        self::fail("{$sql} does not reach into it");
    }

    private function reader(): IndexReachReader
    {
        $columns = static fn (string ...$names): array => array_fill_keys($names, ['bytes' => 8.0, 'distinct' => null, 'long' => false]);

        return new IndexReachReader([
            'glass.pick' => new IndexedTable('glass.pick', 1_000, $columns('id', 'bay', 'kilos', 'grade'), []),
            'glass.bay' => new IndexedTable('glass.bay', 10, $columns('id', 'name'), []),
        ]);
    }
}
