<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\RangeRewrites;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Storage\JoinUse;
use Fulcrion\Core\Storage\Predicate;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Storage\UseReader;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class UseReaderTest extends TestCase
{
    private const DAY_US = 86_400_000_000;

    private UseReader $reader;

    protected function setUp(): void
    {
        $type = ColumnType::of(...);
        $this->reader = new UseReader(
            [
                'field.reading' => [
                    'bay_id' => $type(TypeKind::Bigint),
                    'kind' => $type(TypeKind::Text),
                    'read_at' => $type(TypeKind::Timestamp),
                    'value' => $type(TypeKind::Double),
                    'price' => ColumnType::decimal(8, 2),
                ],
                'ref.bay' => ['bay_id' => $type(TypeKind::Bigint), 'name' => $type(TypeKind::Text)],
                'ref.day' => ['day' => $type(TypeKind::Date), 'week' => $type(TypeKind::Bigint)],
            ],
            Dialect::Ansi,
            [
                'field.latest' => 'CREATE VIEW field.latest AS SELECT kind, price FROM reading WHERE read_at > 3',
                'field.counted' => 'CREATE VIEW field.counted AS SELECT count(*) AS n FROM latest',
                'field.round' => 'CREATE VIEW field.round AS SELECT * FROM field.round',
            ],
        );
    }

    public function test_filters_joins_groups_and_columns_are_told_apart(): void
    {
        [$reading, $bay] = $this->uses(
            "SELECT b.name, date_trunc('day', r.read_at) AS day, avg(r.value) FROM field.reading r JOIN ref.bay b ON b.bay_id = "
                ."r.bay_id WHERE r.read_at >= date '2026-11-20' AND kind = 'co2' AND price < 12.5 GROUP BY b.name, 2",
        );
        self::assertSame('field.reading', $reading->table);
        self::assertEquals(
            [
                Predicate::range('read_at', 20_777 * self::DAY_US, null),
                Predicate::range('kind', 'co2', 'co2'),
                Predicate::range('price', null, 1250.0),
            ],
            $reading->predicates,
        );
        self::assertEquals([new JoinUse('bay_id', 'ref.bay', 'bay_id')], $reading->joins);
        self::assertSame(['read_at'], $reading->grouped);
        self::assertEqualsCanonicalizing(['read_at', 'value', 'bay_id', 'kind', 'price'], $reading->columns);
        self::assertSame(['name'], $bay->grouped);
    }

    /**
     * @return iterable<string, array{string, array<string, string>, int}>
     */
    public static function filters(): iterable
    {
        yield 'cast' => [
            "SELECT 1 FROM field.reading WHERE cast(read_at AS date) = date '2026-11-20' AND kind = 'x'",
            ['read_at' => "CAST(read_at AS date) = DATE '2026-11-20'"],
            1,
        ];
        yield 'NULL tests and inequalities hide nothing' => [
            'SELECT 1 FROM field.reading WHERE value IS NOT NULL AND bay_id <> 3 AND kind LIKE \'%x\'',
            [],
            0,
        ];
        yield 'other columns tell nothing' => ['SELECT 1 FROM field.reading WHERE value > bay_id', [], 0];
        yield 'OR is no demand' => ["SELECT 1 FROM field.reading WHERE kind = 'a' OR bay_id = 2", [], 0];
        yield 'prefix' => ["SELECT 1 FROM field.reading WHERE kind LIKE 'te%'", [], 1];
        yield 'parameters are known as filters, not their values' => [
            'SELECT 1 FROM field.reading WHERE bay_id = ? AND read_at BETWEEN ? AND ?',
            [],
            2,
        ];
    }

    /**
     * @param  array<string, string>  $wrapped
     */
    #[DataProvider('filters')]
    public function test_what_hides_a_column_is_named(string $sql, array $wrapped, int $predicates): void
    {
        $use = $this->uses($sql)[0];
        self::assertSame($wrapped, $use->wrapped);
        self::assertCount($predicates, $use->predicates);
    }

    public function test_common_tables_subqueries_and_writes(): void
    {
        self::assertSame(
            ['ref.bay', 'field.reading'],
            array_map(
                static fn (TableUse $u): string => $u->table,
                $this->uses(
                    'WITH reading AS (SELECT bay_id FROM ref.bay) SELECT * FROM reading WHERE bay_id IN (SELECT bay_id FROM '
                        .'field.reading WHERE value > 3)',
                ),
            ),
        );
        $join = $this->uses('SELECT r.bay_id FROM field.reading r JOIN ref.day d ON d.day = cast(r.read_at AS date) WHERE d.week = 47');
        self::assertTrue($join[0]->joins[0]->mismatch);
        self::assertSame(
            [true, ['bay_id', 'kind', 'read_at', 'value', 'price']],
            [$this->uses('DELETE FROM field.reading WHERE bay_id = 3')[0]->writes, $this->uses('SELECT * FROM reading')[0]->columns],
        );
        self::assertSame([], $this->uses('SELECT count(*) FROM field.reading')[0]->columns);
        self::assertNull($this->reader->read('SELECT FROM WHERE'));
    }

    /**
     * @return iterable<string, array{string, list<string>}> statement => columns of field.reading it reads
     */
    public static function reading(): iterable
    {
        foreach (
            [
                'SELECT bay_id FROM reading ORDER BY value' => ['bay_id', 'value'],
                'SELECT b.name FROM ref.bay b WHERE EXISTS (SELECT 1 FROM reading r WHERE r.bay_id = b.bay_id ORDER BY r.price)' => [
                    'bay_id',
                    'price',
                ],
                'SELECT 1 FROM reading r WHERE EXISTS (SELECT 1 FROM ref.bay b WHERE b.name = r.kind)' => ['kind'],
                'SELECT 1 FROM reading WHERE bay_id IN (SELECT b.bay_id FROM ref.bay b WHERE name = kind)' => ['bay_id', 'kind'],
                'SELECT (SELECT max(name) FROM ref.bay b WHERE b.bay_id = reading.bay_id) FROM reading' => ['bay_id'],
                "UPDATE reading SET value = price * 2 WHERE kind = 'a'" => ['kind', 'price'],
                'UPDATE reading SET value = (SELECT count(*) FROM ref.bay b WHERE b.bay_id = reading.bay_id)' => ['bay_id'],
                'DELETE FROM reading WHERE read_at < now()' => ['read_at'],
                'SELECT sum(value) OVER w FROM reading WINDOW w AS (ORDER BY read_at)' => ['read_at', 'value'],
                'SELECT name FROM reading NATURAL JOIN ref.bay' => ['bay_id'],
                'SELECT kind FROM latest' => ['kind', 'price', 'read_at'],
                'SELECT n FROM counted' => ['kind', 'price', 'read_at'],
                'WITH latest AS (SELECT 1 AS kind) SELECT kind FROM latest' => [],
                'INSERT INTO ref.bay SELECT bay_id, kind FROM reading' => ['bay_id', 'kind'],
                'SELECT count(*) FROM reading' => [],
            ] as $sql => $columns
        ) {
            yield $sql => [$sql, $columns];
        }
    }

    /**
     * @param  list<string>  $columns
     */
    #[DataProvider('reading')]
    public function test_every_column_that_is_looked_at_counts_as_read(string $sql, array $columns): void
    {
        $read = [];
        foreach ($this->uses($sql) as $use) {
            $read += $use->table === 'field.reading' ? array_fill_keys($use->columns, true) : [];
        }
        self::assertEqualsCanonicalizing($columns, array_keys($read));
        self::assertSame(! str_starts_with($sql, 'WITH'), in_array('field.reading', array_column($this->uses($sql), 'table'), true));
    }

    public function test_predicates_are_held_against_bounds(): void
    {
        $zone = new ZoneMap(10, 20, 0, 5, 0);
        self::assertTrue(Predicate::oneOf('a', [25, 15])->meets($zone));
        self::assertFalse(Predicate::oneOf('a', [9, 21, 300])->meets($zone));
        self::assertFalse(Predicate::range('a', null, 9)->meets($zone));
        self::assertFalse(Predicate::range('a', 1, 2)->meets(new ZoneMap(null, null, 5, 5, 0)), 'all are NULL');
        self::assertTrue(Predicate::range('a', 1, 2)->meets(new ZoneMap(null, null, 1, 5, 0)), 'bounds are not known');
    }

    public function test_wrapped_filters_are_said_as_spans_wherever_they_stand(): void
    {
        self::assertSame(
            "SELECT AVG(r.value) FROM field.reading AS r WHERE r.read_at >= TIMESTAMP '2026-11-20 00:00:00' AND r.read_at < TIMESTAMP "
                ."'2026-11-21 00:00:00' AND (kind = 'a' OR NOT read_at >= TIMESTAMP '2026-11-01 00:00:00')",
            str_replace(
                'avg(',
                'AVG(',
                (string) RangeRewrites::statement(
                    "SELECT avg(r.value) FROM field.reading r WHERE cast(r.read_at AS date) = date '2026-11-20' AND (kind = 'a' OR NOT "
                        ."date_trunc('month', read_at) >= date '2026-11-01')",
                    ['read_at' => 'timestamp'],
                ),
            ),
        );
        self::assertNull(
            RangeRewrites::statement('SELECT 1 FROM field.reading WHERE extract(hour FROM read_at) = 4', ['read_at' => 'timestamp']),
        );
    }

    public function test_the_part_that_reads_is_taken_and_its_table_exchanged(): void
    {
        self::assertSame('SELECT bay_id FROM field.reading', Reading::of('CREATE TABLE x AS SELECT bay_id FROM field.reading'));
        self::assertNull(Reading::of('INSERT INTO t VALUES (1)'));
        self::assertStringNotContainsString('LIMIT', Reading::unlimited('SELECT a FROM t ORDER BY a LIMIT 3'));
        self::assertSame(
            'SELECT reading.value, b.name FROM other.place AS reading JOIN ref.bay b ON true WHERE EXISTS (SELECT 1 FROM other.place x)',
            Reading::with(
                'SELECT reading.value, b.name FROM field.reading JOIN ref.bay b ON true WHERE EXISTS (SELECT 1 FROM "field" . "reading" x)',
                'field.reading',
                'other.place',
            ),
        );
    }

    /**
     * @return list<TableUse>
     */
    private function uses(string $sql): array
    {
        return $this->reader->read($sql, 'field') ?? self::fail("cannot be read: {$sql}");
    }
}
