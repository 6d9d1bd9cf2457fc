<?php

declare(strict_types=1);

namespace Tests\Core\Indexes;

use Fulcrion\Core\Indexes\Index;
use Fulcrion\Core\Indexes\IndexAdvisor;
use Fulcrion\Core\Indexes\IndexedTable;
use Fulcrion\Core\Indexes\Proposed;
use Fulcrion\Core\Layout\StatementUse;
use PHPUnit\Framework\TestCase;

final class IndexAdvisorTest extends TestCase
{
    public function test_equal_columns_come_first_then_the_span_then_what_is_read(): void
    {
        foreach ([
            "SELECT id, weight FROM d.note WHERE state = 'left' AND buyer = 'x' AND day >= '2026-01-01' ORDER BY day" => 'buyer,state,day,id,weight',
            "SELECT * FROM d.note WHERE buyer = 'x' ORDER BY day DESC LIMIT 5" => 'buyer,day',
            "SELECT buyer, SUM(weight) FROM d.note WHERE day = '2026-01-01' GROUP BY buyer" => 'day,buyer,weight',
            'SELECT day FROM d.note WHERE buyer IN (1, 2) AND remark LIKE \'%x\'' => 'buyer',
            "UPDATE d.note SET state = 'left' WHERE buyer = 'x' AND day = '2026-01-01'" => 'buyer,day',
            'SELECT n.weight FROM d.note n JOIN d.buyer b ON b.name = n.buyer WHERE b.town = \'y\'' => 'buyer,weight',
        ] as $sql => $columns) {
            $found = array_values(array_filter($this->missing([$sql]), static fn (Proposed $p): bool => $p->table === 'd.note'));
            self::assertSame($columns, implode(',', $found[0]->columns ?? []), $sql);
        }
    }

    public function test_what_an_index_gives_already_or_a_small_table_is_left_alone(): void
    {
        foreach (['SELECT weight FROM d.note WHERE id = 5', "SELECT id FROM d.note WHERE driver = 'x'", "SELECT name FROM d.buyer WHERE town = 'x'", 'SELECT COUNT(*) FROM d.note'] as $sql) {
            self::assertSame([], $this->missing([$sql]), $sql);
        }
    }

    public function test_proposals_that_are_the_beginning_of_another_go_into_it(): void
    {
        $found = $this->missing(["SELECT * FROM d.note WHERE buyer = 'x'", "SELECT * FROM d.note WHERE buyer = 'x' AND day > '2026-01-01'"]);
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
        $needless = (new IndexAdvisor($this->tables()))->needless();
        self::assertSame(['by_driver' => 'by_driver_and_day (driver, day) begins with the same columns', 'by_state' => 'nobody read by it since the server began to count'], array_combine(array_map(static fn (array $one): string => $one['index']->name, $needless), array_column($needless, 'why')));
    }

    /**
     * @param  list<string>  $sql
     * @return list<Proposed>
     */
    private function missing(array $sql): array
    {
        return (new IndexAdvisor($this->tables()))->missing(array_map(static fn (string $text, int $i): StatementUse => new StatementUse("s{$i}", 100.0, 1e8, 0.0, [], $text, '', 'd'), $sql, array_keys($sql)), []);
    }

    /**
     * @return array<string, IndexedTable>
     */
    private function tables(): array
    {
        $column = static fn (float $distinct, bool $long = false): array => ['bytes' => 8.0, 'distinct' => $distinct, 'long' => $long];

        return [
            'd.note' => new IndexedTable('d.note', 50_000, ['id' => $column(50_000), 'buyer' => $column(400), 'day' => $column(200), 'state' => $column(4), 'weight' => $column(9000), 'driver' => $column(60), 'remark' => $column(9000, true)], [
                new Index(Index::PRIMARY, ['id'], true, 0), new Index('by_driver', ['driver'], false, 5), new Index('by_driver_and_day', ['driver', 'day'], false, 7), new Index('by_state', ['state'], false, 0), new Index('one_a_day', ['remark', 'day'], true, 0),
            ]),
            'd.buyer' => new IndexedTable('d.buyer', 40, ['name' => $column(40), 'town' => $column(5)], []),
        ];
    }
}
