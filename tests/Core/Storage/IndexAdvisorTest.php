<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Storage\Indexes\Index;
use Fulcrion\Core\Storage\Indexes\IndexAdvisor;
use Fulcrion\Core\Storage\Indexes\IndexedTable;
use Fulcrion\Core\Storage\Indexes\ProposedIndex;
use Fulcrion\Core\Storage\StatementUse;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class IndexAdvisorTest extends TestCase
{
    public function test_equal_columns_come_first_then_the_span_then_what_is_read(): void
    {
        foreach (
            [
                "SELECT id, weight FROM d.note WHERE state = 'left' AND buyer = 'x' AND day >= '2026-01-01' ORDER BY day" => 'buyer,'
                    .'state,day',
                "SELECT * FROM d.note WHERE buyer = 'x' ORDER BY day DESC LIMIT 5" => 'buyer,day',
                "SELECT buyer, SUM(weight) FROM d.note WHERE day = '2026-01-01' GROUP BY buyer" => 'day,buyer,weight',
                'SELECT day FROM d.note WHERE buyer IN (1, 2) AND remark LIKE \'%x\'' => 'buyer',
                "UPDATE d.note SET state = 'left' WHERE buyer = 'x' AND day = '2026-01-01'" => 'buyer,day',
                'SELECT n.weight FROM d.note n JOIN d.buyer b ON b.name = n.buyer WHERE b.town = \'y\'' => 'buyer,weight',
            ] as $sql => $columns
        ) {
            $found = array_values(array_filter($this->missing([$sql]), static fn (ProposedIndex $p): bool => $p->table === 'd.note'));
            self::assertSame($columns, implode(',', $found[0]->columns ?? []), $sql);
        }
    }

    public function test_what_an_index_gives_already_or_a_small_table_is_left_alone(): void
    {
        foreach (
            [
                'SELECT weight FROM d.note WHERE id = 5',
                "SELECT id FROM d.note WHERE driver = 'x'",
                "SELECT name FROM d.buyer WHERE town = 'x'",
                'SELECT COUNT(*) FROM d.note',
            ] as $sql
        ) {
            self::assertSame([], $this->missing([$sql]), $sql);
        }
    }

    public function test_proposals_that_are_the_beginning_of_another_go_into_it(): void
    {
        $found = $this->missing([
            "SELECT * FROM d.note WHERE buyer = 'x'",
            "SELECT * FROM d.note WHERE buyer = 'x' AND day > '2026-01-01'",
        ]);
        self::assertCount(1, $found);
        self::assertSame(['buyer', 'day'], $found[0]->columns);
        self::assertCount(2, $found[0]->served);
        self::assertSame('CREATE INDEX `by_buyer_day` ON `d`.`note` (`buyer`, `day`)', $found[0]->create());
        foreach ($found[0]->served as $one) {
            self::assertSame(50_000.0, $one['rowsNow']);
            self::assertLessThan(126.0, $one['rowsThen'], '50 000 rows of 400 buyers');
        }
    }

    public function test_needless_indexes_are_named_and_unique_ones_are_not(): void
    {
        $needless = (new IndexAdvisor($this->tables()))->needless(8 * 86_400 + 5);
        self::assertSame(
            [
                'by_driver' => 'by_driver_and_day (driver, day) begins with the same columns',
                'by_state' => 'nobody read by it in the 8 days since the server began to count',
            ],
            array_combine(array_map(static fn (array $one): string => $one['index']->name, $needless), array_column($needless, 'why')),
        );
    }

    /**
     * @return iterable<string, array{list<Index>, list<list<string>>, list<string>}> indexes, foreign keys, which may go
     */
    public static function pairs(): iterable
    {
        $index = static fn (string $name, string $columns, ?int $uses, bool $whole = true, bool $unique = false): Index => new Index(
            $name,
            explode(',', $columns),
            $unique,
            $uses,
            $whole,
        );
        yield 'two alike nobody reads by' => [[$index('a', 'x', 0), $index('b', 'x', 0)], [], ['a', 'b']];
        yield 'two alike, one read by' => [[$index('a', 'x', 0), $index('b', 'x', 4)], [], ['a']];
        yield 'two alike, the other read by' => [[$index('a', 'x', 4), $index('b', 'x', 0)], [], ['b']];
        yield 'two alike, both read by' => [[$index('a', 'x', 4), $index('b', 'x', 4)], [], ['b']];
        yield 'the longer one is read by' => [[$index('a', 'x', 3), $index('b', 'x,y', 4)], [], ['a']];
        yield 'the longer one is not read by' => [[$index('a', 'x', 3), $index('b', 'x,y', 0)], [], ['b']];
        yield 'the server does not count' => [[$index('a', 'x', null), $index('b', 'x,y', null)], [], ['a']];
        yield 'beginnings of values' => [[$index('a', 'x', 3), $index('b', 'x,y', 4, false)], [], []];
        yield 'beginnings nobody reads by' => [[$index('a', 'x', 0, false)], [], []];
        yield 'a foreign key needs it' => [[$index('a', 'x', 0)], [['x']], []];
        yield 'a foreign key needs one of two' => [[$index('a', 'x', 0), $index('b', 'x,y', 0)], [['x']], ['a']];
        yield 'a foreign key on other columns' => [[$index('a', 'x', 0)], [['y']], ['a']];
        yield 'a foreign key on more columns' => [[$index('a', 'x', 0), $index('b', 'x,y', 0)], [['x', 'y']], ['a']];
        yield 'the unique one stays' => [[$index('a', 'x', 0, true, true), $index('b', 'x', 9)], [], ['b']];
    }

    /**
     * @param  list<Index>  $indexes
     * @param  list<non-empty-list<string>>  $foreign
     * @param  list<string>  $may
     */
    #[DataProvider('pairs')]
    public function test_all_that_is_called_needless_may_go_together(array $indexes, array $foreign, array $may): void
    {
        $table = new IndexedTable('d.t', 1000, [], $indexes, $foreign);
        self::assertSame(
            $may,
            array_map(static fn (array $one): string => $one['index']->name, (new IndexAdvisor(['d.t' => $table]))->needless(7 * 86_400)),
        );
        $turned = new IndexedTable('d.t', 1000, [], array_reverse($indexes), $foreign);
        self::assertSame(
            $may,
            array_map(static fn (array $one): string => $one['index']->name, (new IndexAdvisor(['d.t' => $turned]))->needless(7 * 86_400)),
            'in whatever order they are listed',
        );
    }

    public function test_how_often_a_value_is_there_decides_whether_an_index_on_it_helps(): void
    {
        $shares = ['d.note' => ['weight' => ['left' => 0.9, 'there' => 0.08, 'open' => 0.02]]];
        $of = fn (string $where): array => $this->missing(["SELECT remark FROM d.note WHERE {$where}"], $shares);
        self::assertSame([], $of("weight = 'left'"), 'most rows have it');
        self::assertSame([], $of('weight = (SELECT max(weight) FROM d.buyer)'), 'asked for as often as it is there, most rows have it');
        self::assertEqualsWithDelta(1000.0, $of("weight = 'open'")[0]->served['s0']['rowsThen'], 0.1);
        self::assertSame([], $of("weight IN ('open', 'there')"), 'looking up a tenth of the rows is no cheaper than reading all');
        self::assertEqualsWithDelta(1.0, $of("weight = 'nowhere'")[0]->served['s0']['rowsThen'], 0.1);
        self::assertEqualsWithDelta((0.02 * 50_000) / 400, $of("weight = 'open' AND buyer = 'x'")[0]->served['s0']['rowsThen'], 0.1);
        $asked = (new IndexAdvisor($this->tables()))->asked([
            new StatementUse(
                's',
                1.0,
                1.0,
                0.0,
                [],
                "SELECT 1 FROM d.note n JOIN d.buyer b ON b.name = n.buyer WHERE n.state = 'a' AND n.day > 'c' AND n.day < 'd'".
                    ' AND n.weight > b.town',
                '',
                'd',
            ),
        ]);
        self::assertSame(['d.note' => ['state', 'buyer', 'day', 'weight']], array_map(
            static function (array $columns): array {
                usort($columns, static fn (string $a, string $b): int => array_search($a, ['state', 'buyer', 'day', 'weight'], true)
                    <=> array_search($b, ['state', 'buyer', 'day', 'weight'], true));

                return $columns;
            },
            $asked->columns,
        ));
        self::assertSame(['d.note' => ['state']], $asked->values, 'of what is compared with other tables no value is asked for');
        self::assertSame(
            ['s n' => ['d.note', 'n', ['day' => "(n.`day` > 'c') AND (n.`day` < 'd')"]]],
            $asked->spans,
            'a span that depends on another table cannot be counted',
        );
    }

    public function test_an_index_is_not_called_unused_before_a_week(): void
    {
        $named = fn (?int $seconds): array => array_map(
            static fn (array $one): string => $one['index']->name,
            (new IndexAdvisor($this->tables()))->needless($seconds),
        );
        self::assertSame(['by_driver', 'by_state'], $named(604_800));
        self::assertSame(['by_driver'], $named(604_799));
        self::assertSame(['by_driver'], $named(null));
    }

    /**
     * @param  list<string>  $sql
     * @param  array<string, array<string, array<string, float>>>  $shares
     * @return list<ProposedIndex>
     */
    private function missing(array $sql, array $shares = []): array
    {
        return (new IndexAdvisor($this->tables()))->missing(
            array_map(
                static fn (string $text, int $i): StatementUse => new StatementUse("s{$i}", 100.0, 1e8, 0.0, [], $text, '', 'd'),
                $sql,
                array_keys($sql),
            ),
            [],
            $shares,
        );
    }

    /**
     * @return array<string, IndexedTable>
     */
    private function tables(): array
    {
        $column = static fn (float $distinct, bool $long = false): array => ['bytes' => 8.0, 'distinct' => $distinct, 'long' => $long];

        return [
            'd.note' => new IndexedTable(
                'd.note',
                50_000,
                [
                    'id' => $column(50_000),
                    'buyer' => $column(400),
                    'day' => $column(200),
                    'state' => $column(4),
                    'weight' => $column(9000),
                    'driver' => $column(60),
                    'remark' => $column(9000, true),
                ],
                [
                    new Index(Index::PRIMARY, ['id'], true, 0),
                    new Index('by_driver', ['driver'], false, 5),
                    new Index('by_driver_and_day', ['driver', 'day'], false, 7),
                    new Index('by_state', ['state'], false, 0),
                    new Index('one_a_day', ['remark', 'day'], true, 0),
                ],
            ),
            'd.buyer' => new IndexedTable('d.buyer', 40, ['name' => $column(40), 'town' => $column(5)], []),
        ];
    }
}
