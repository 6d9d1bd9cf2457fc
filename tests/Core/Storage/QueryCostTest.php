<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Storage\Indexes\Index;
use Fulcrion\Core\Storage\Indexes\IndexAdvisor;
use Fulcrion\Core\Storage\Indexes\IndexedTable;
use Fulcrion\Core\Storage\Indexes\IndexReachReader;
use Fulcrion\Core\Storage\Indexes\ProposedIndex;
use Fulcrion\Core\Storage\Indexes\QueryCost;
use Fulcrion\Core\Storage\Indexes\QueryEstimate;
use Fulcrion\Core\Storage\Indexes\RowShares;
use Fulcrion\Core\Storage\StatementUse;
use PHPUnit\Framework\TestCase;

/**
 * What queries cost with some indexes, and which indexes a query is best served with.
 */
final class QueryCostTest extends TestCase
{
    private const JOIN = "SELECT o.ordered_at, SUM(l.kilos) FROM orders o JOIN order_lines l ON l.order_id = o.id
        WHERE o.customer_id = 7 AND o.ordered_at >= '2026-11-01' GROUP BY o.ordered_at";

    public function test_both_indexes_of_a_join_are_found_constants_before_spans(): void
    {
        $found = $this->missing([self::JOIN]);
        $byTable = [];
        foreach ($found as $one) {
            $byTable[$one->table] = $one->columns;
        }
        self::assertSame(['customer_id', 'ordered_at'], array_slice($byTable['farm.orders'] ?? [], 0, 2));
        self::assertSame('order_id', $byTable['farm.order_lines'][0] ?? '');
        self::assertCount(2, $found);
        // What both save together is shared among them.
        $saved = array_sum(array_map(static fn (ProposedIndex $one): float => $one->savedUs(), $found));
        self::assertGreaterThan(0.95e8, $saved);
        self::assertLessThanOrEqual(1e8, $saved);
    }

    public function test_what_must_read_everything_is_left_alone(): void
    {
        foreach (
            [
                'SELECT SUM(kilos) FROM order_lines',
                'SELECT o.id, l.kilos, l.note FROM orders o JOIN order_lines l ON l.order_id = o.id',
            ] as $sql
        ) {
            foreach ($this->missing([$sql]) as $one) {
                // At most the key of the join itself, without which each row is compared with each.
                self::assertSame(['farm.order_lines', 'order_id'], [$one->table, $one->columns[0]], $sql);
            }
        }
    }

    public function test_nothing_begins_with_a_key_that_finds_the_row_by_itself(): void
    {
        foreach ($this->missing(["SELECT note FROM orders WHERE id = 5 AND state = 'open'", self::JOIN]) as $one) {
            self::assertNotSame('id', $one->columns[0]);
        }
        self::assertSame([], $this->missing(["SELECT note FROM orders WHERE id = 5 AND state = 'open'"]));
    }

    public function test_a_few_in_an_order_need_no_sort(): void
    {
        $found = $this->missing(["SELECT * FROM orders WHERE state = 'open' ORDER BY ordered_at DESC LIMIT 20"]);
        self::assertSame(['state', 'ordered_at'], $found[0]->columns);
        self::assertTrue($found[0]->served['s0']['sort']);
        self::assertEqualsWithDelta(20.0, $found[0]->served['s0']['rowsThen'], 1.0);
    }

    public function test_the_inner_side_of_an_outer_join_is_read_after_the_other(): void
    {
        $sql = 'SELECT o.id FROM orders o LEFT JOIN order_lines l ON l.order_id = o.id AND l.note = 3 WHERE o.customer_id = 9';
        $first = static fn (ProposedIndex $one): string => "{$one->table} {$one->columns[0]}";
        self::assertEqualsCanonicalizing(
            ['farm.orders customer_id', 'farm.order_lines note'],
            array_map($first, $this->missing([$sql])),
        );
        // By an index on l.note the inner join could begin there; the outer one cannot.
        $inner = $this->cost(str_replace('LEFT JOIN', 'JOIN', $sql), ['farm.order_lines' => [new Index('', ['note'], false)]]);
        $outer = $this->cost($sql, ['farm.order_lines' => [new Index('', ['note'], false)]]);
        self::assertLessThan($outer->cost, $inner->cost);
    }

    public function test_counted_rows_of_one_table(): void
    {
        // All of them, then what an index leads to: a thousandth of 200,000 rows, entries at 1.3 and rows at 9.
        self::assertSame([200_000.0, 200_000.0], $this->told('SELECT note FROM orders WHERE customer_id = 7'));
        $by = static fn (string $first, string ...$more): array => [
            'farm.orders' => [new Index('', [$first, ...array_values($more)], false)],
        ];
        self::assertEqualsWithDelta(
            [20 + 200 * 10.3, 200.0],
            $this->told('SELECT note FROM orders WHERE customer_id = 7', $by('customer_id')),
            1e-6,
        );
        self::assertEqualsWithDelta(
            [20 + 200 * 1.3, 200.0],
            $this->told('SELECT id FROM orders WHERE customer_id = 7', $by('customer_id')),
            1e-6,
            'each index ends with the primary key',
        );
        // A span behind it keeps a fifth where nobody counted.
        $span = "SELECT note FROM orders WHERE customer_id = 7 AND ordered_at > '2026-11-01'";
        self::assertEqualsWithDelta([20 + 40 * 10.3, 40.0], $this->told($span, $by('customer_id', 'ordered_at')), 1e-6);
        // In between there is another column: entries are read, and sifted before rows are.
        self::assertEqualsWithDelta(
            [20 + 200 * 1.3 + 40 * 9, 200.0],
            $this->told($span, $by('customer_id', 'state', 'ordered_at')),
            1e-6,
        );
        self::assertSame([29.0, 1.0], $this->told('SELECT note FROM orders WHERE id = 8'));
        // Ten of 200 that come in their order.
        $few = 'SELECT note FROM orders WHERE customer_id = 7 ORDER BY ordered_at LIMIT 10';
        self::assertEqualsWithDelta([20 + 10 * 10.3, 10.0], $this->told($few, $by('customer_id', 'ordered_at')), 1e-6);
        self::assertEqualsWithDelta(
            20 + 200 * 10.3 + 200 * 0.17 * log(200, 2),
            $this->told($few, $by('customer_id'))[0],
            1e-6,
            'else all are read and sorted',
        );
    }

    /** More indexes never make the best way dearer, whatever they are. */
    public function test_more_indexes_never_cost_more(): void
    {
        mt_srand(5);
        $columns = ['farm.orders' => ['customer_id', 'ordered_at', 'state', 'note'], 'farm.order_lines' => ['order_id', 'kilos', 'note']];
        $other = "SELECT l.note FROM order_lines l, orders o WHERE o.id = l.order_id AND o.state = 'a' ORDER BY l.kilos LIMIT 5";
        foreach ([self::JOIN, $other] as $sql) {
            for ($round = 0; $round < 60; $round++) {
                $more = [];
                $before = $this->cost($sql);
                for ($i = 0; $i < 4; $i++) {
                    $table = array_rand($columns);
                    $list = $columns[$table];
                    shuffle($list);
                    $some = array_slice($list, 0, mt_rand(1, 3));
                    $more[$table][] = new Index("i{$i}", $some, false);
                    $after = $this->cost($sql, $more);
                    self::assertLessThanOrEqual($before->cost * 1.0000001, $after->cost, $sql);
                    $before = $after;
                }
            }
        }
    }

    public function test_what_was_counted_of_a_span_decides(): void
    {
        $sql = "SELECT note FROM orders WHERE ordered_at > '2026-11-28'";
        self::assertSame([], $this->missing([$sql], ['s0 orders' => ['ordered_at' => 0.9]]));
        self::assertSame('ordered_at', $this->missing([$sql], ['s0 orders' => ['ordered_at' => 0.001]])[0]->columns[0]);
    }

    /**
     * @param  list<string>  $sql
     * @param  array<string, array<string, float>>  $spans
     * @return list<ProposedIndex>
     */
    private function missing(array $sql, array $spans = []): array
    {
        return (new IndexAdvisor($this->tables()))->missing(
            array_map(
                static fn (string $text, int $i): StatementUse => new StatementUse("s{$i}", 100.0, 1e8, 0.0, [], $text, '', 'farm'),
                $sql,
                array_keys($sql),
            ),
            [],
            [],
            $spans,
        );
    }

    /**
     * @param  array<string, list<Index>>  $more
     */
    private function cost(string $sql, array $more = []): QueryEstimate
    {
        $query = (new IndexReachReader($this->tables()))->queries($sql, 'farm')[0];

        return (new QueryCost($this->tables(), new RowShares($this->tables())))->of($query, $more);
    }

    /**
     * @param  array<string, list<Index>>  $more
     * @return array{float, float}
     */
    private function told(string $sql, array $more = []): array
    {
        $estimate = $this->cost($sql, $more);

        return [$estimate->cost, $estimate->rows];
    }

    /**
     * @return array<string, IndexedTable>
     */
    private function tables(): array
    {
        $column = static fn (float $distinct): array => ['bytes' => 8.0, 'distinct' => $distinct, 'long' => false];

        return [
            'farm.orders' => new IndexedTable('farm.orders', 200_000, [
                'id' => $column(200_000),
                'customer_id' => $column(1_000),
                'ordered_at' => $column(90_000),
                'state' => $column(5),
                'note' => $column(150_000),
            ], [new Index(Index::PRIMARY, ['id'], true)]),
            'farm.order_lines' => new IndexedTable('farm.order_lines', 400_000, [
                'id' => $column(400_000),
                'order_id' => $column(200_000),
                'kilos' => $column(500),
                'note' => $column(90),
            ], [new Index(Index::PRIMARY, ['id'], true)]),
        ];
    }
}
