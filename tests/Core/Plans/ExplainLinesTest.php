<?php

declare(strict_types=1);

namespace Tests\Core\Plans;

use Fulcrion\Core\Plans\ExplainLines;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanAccess;
use Fulcrion\Core\Plans\PlanStep;
use PHPUnit\Framework\TestCase;

final class ExplainLinesTest extends TestCase
{
    private const HEAD = "# explain: id\tselect_type\ttable\ttype\tpossible_keys\tkey\tkey_len\tref\trows\tr_rows\tfiltered\tr_filtered"
        ."\tExtra";

    public function test_tables_are_read_in_their_order_with_what_was_expected_and_what_was(): void
    {
        $plan = $this->plan(
            "1\tSIMPLE\to\tALL\tby_customer\tNULL\tNULL\tNULL\t5000\t4800.00\t100.00\t2.50\tUsing where; Using temporary; Using filesort",
            "1\tSIMPLE\tl\tref\tby_order\tby_order\t4\tfarm.o.id\t3\t2.00\t50.00\t100.00\t",
        );
        self::assertNotNull($plan);
        self::assertSame(['o' => '', 'l' => 'by_order'], PlanAccess::of($plan));
        self::assertTrue($plan->actual);
        self::assertSame(
            ['sort', 'store', 'result', 'loop-join', 'scan', 'index-read'],
            array_map(static fn (PlanStep $step): string => $step->kind->value, $plan->steps()),
        );
        $scan = $plan->steps()[4];
        self::assertSame([5000.0, 120.0, 4800.0, 5000], [
            $scan->rows->estimated, $scan->rows->actual, $scan->rows->in, $scan->table?->rows,
        ]);
        $lookup = $plan->steps()[5];
        self::assertSame([1.5, 2.0, 2.0, null], [
            $lookup->rows->estimated, $lookup->rows->actual, $lookup->rows->in, $lookup->table?->rows,
        ]);
        self::assertSame(['access ref', 'index by_order'], $lookup->notes);
        // The same shape as the server tells it in its other way.
        self::assertSame($plan->fingerprint(), Plan::read($plan->toJson())->fingerprint());
    }

    public function test_what_is_inside_of_others_and_what_reads_nothing(): void
    {
        $plan = $this->plan(
            "1\tPRIMARY\to\tconst\tPRIMARY\tPRIMARY\t4\tconst\t1\tNULL\t100.00\tNULL\t",
            "2\tSUBQUERY\tl\tindex\tNULL\tby_order\t5\tNULL\t900\t900.00\t100.00\t100.00\tUsing index",
        );
        self::assertSame(['o' => 'PRIMARY', 'l' => ''], PlanAccess::of($plan ?? self::fail()));
        self::assertCount(2, $plan->root->inputs);
        $none = $this->plan("1\tSIMPLE\tNULL\tNULL\tNULL\tNULL\tNULL\tNULL\tNULL\tNULL\tNULL\tNULL\tImpossible WHERE");
        self::assertSame(['result', 'Impossible WHERE'], ['result', $none?->root->detail]);
        self::assertSame([], PlanAccess::of($none ?? self::fail()));
    }

    public function test_lines_that_are_no_plan_are_none(): void
    {
        self::assertTrue(ExplainLines::is(self::HEAD));
        self::assertFalse(ExplainLines::is('# Query_time: 3'));
        self::assertNull(ExplainLines::read([]));
        self::assertNull(ExplainLines::read([self::HEAD]));
        self::assertNull($this->plan("1\tSIMPLE\to"));
        self::assertNull(ExplainLines::read(["# explain: id\ttable", "# explain: 1\to"]));
    }

    private function plan(string ...$rows): ?Plan
    {
        return ExplainLines::read([self::HEAD, ...array_map(static fn (string $row): string => "# explain: {$row}", array_values($rows))]);
    }
}
