<?php

declare(strict_types=1);

namespace Tests\Core\Plans;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanAccess;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\Rules\FullRead;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Plans\TableFacts;
use PHPUnit\Framework\TestCase;

final class PlanAccessTest extends TestCase
{
    public function test_which_tables_are_read_by_what(): void
    {
        $before = self::plan(['orders', 'by_customer'], ['lines', 'by_order'], ['<temporary>', '']);
        $after = self::plan(['orders', 'PRIMARY'], ['lines', '']);
        self::assertSame(['orders' => 'by_customer', 'lines' => 'by_order'], PlanAccess::of($before));
        self::assertSame(['lines' => 'by_order'], PlanAccess::lost($before, $after));
        self::assertSame([], PlanAccess::lost($after, $before));
        self::assertSame([], PlanAccess::lost($after, self::plan(['orders', 'PRIMARY'], ['lines', ''], ['crew', ''])), 'was never read');
        self::assertSame('looks up orders by PRIMARY, then reads lines as a whole', PlanAccess::told($after));
        self::assertSame('reads no table', PlanAccess::told(self::plan()));
        self::assertSame('looks up orders by a key', PlanAccess::told(new Plan(
            new PlanStep(StepKind::IndexRead, '', new TableFacts('orders')),
            'mariadb',
            false,
            false,
        )));
    }

    public function test_a_table_read_twice_is_read_as_a_whole_if_it_is_once(): void
    {
        self::assertSame(['orders' => ''], PlanAccess::of(self::plan(['orders', 'by_day'], ['orders', ''])));
        self::assertSame(['orders' => ''], PlanAccess::of(self::plan(['orders', ''], ['orders', 'by_day'])));
    }

    public function test_the_index_of_a_live_server_belongs_to_the_shape_of_a_plan(): void
    {
        $by = static fn (string $index): string => self::plan(['orders', $index])->fingerprint();
        self::assertNotSame($by('by_day'), $by('by_customer'));
        self::assertSame($by('by_day'), $by('by_day'));
        $json = '{"query_block": {"table": {"table_name": "orders", "access_type": "ref", "key": "by_day", "rows": 3}}}';
        $read = Plan::read($json);
        self::assertSame(['orders' => 'by_day'], PlanAccess::of($read));
        // Kept and opened again it is the same.
        self::assertSame(['orders' => 'by_day'], PlanAccess::of(Plan::read($read->toJson())));
        self::assertSame($read->fingerprint(), Plan::read($read->toJson())->fingerprint());
        self::assertSame(['field.orders' => 'by_day'], PlanAccess::of($read->named(['orders' => 'field.orders'], '')));
        $whole = Plan::read('{"query_block": {"table": {"table_name": "o", "access_type": "ALL", "rows": 900}}}');
        self::assertSame(900, $whole->named(['o' => 'field.orders'], '')->steps()[0]->table?->rows, 'what is known of it stays');
    }

    /**
     * @param  array{string, string}  ...$tables name and index
     */
    private static function plan(array ...$tables): Plan
    {
        $steps = array_map(
            static fn (array $one): PlanStep => new PlanStep(
                $one[1] === '' ? StepKind::Scan : StepKind::IndexRead,
                '',
                new TableFacts($one[0]),
                index: $one[1],
            ),
            $tables,
        );

        return new Plan(new PlanStep(StepKind::Result, inputs: array_values($steps)), 'mariadb', false, false);
    }

    public function test_a_whole_read_for_one_value_is_found_in_a_plan_that_was_not_run(): void
    {
        $found = static function (string $condition, int $rows = 398_262, string $access = 'ALL'): array {
            $table = ['table_name' => 'orders', 'access_type' => $access, 'rows' => $rows, 'filtered' => 100] +
                ($condition === '' ? [] : ['attached_condition' => $condition]);
            $plan = Plan::read(json_encode(['query_block' => ['table' => $table]], JSON_THROW_ON_ERROR));

            return array_map(static fn (PlanFinding $one): string => $one->problem, (new FullRead())->check($plan));
        };
        $told = ['orders is read as a whole for what is equal to one value'];
        self::assertSame($told, $found('orders.customer_id = 811'));
        self::assertSame($told, $found("orders.state = 'open' and orders.total > 3"));
        self::assertSame($told, $found('orders.customer_id = 811', 10_000));
        foreach (
            [
                ['orders.customer_id = 811', 9_999], ['orders.customer_id = 811', 398_262, 'ref'], ['orders.total >= 811'],
                ['orders.total <= 811'], ['orders.total <> 811'], ['orders.customer_id = lines.customer_id'], [''],
                ["orders.state = 'open' or orders.state = 'held'"],
            ] as $case
        ) {
            self::assertSame([], $found(...$case), $case[0]);
        }
    }
}
