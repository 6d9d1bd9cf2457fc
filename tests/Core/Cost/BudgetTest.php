<?php

declare(strict_types=1);

namespace Tests\Core\Cost;

use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\BudgetPeriod;
use Fulcrion\Core\Cost\BudgetUse;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class BudgetTest extends TestCase
{
    #[TestWith([BudgetPeriod::Month, '2026-02-28', '2026-02-01 to 2026-02-28'])]
    #[TestWith([BudgetPeriod::Month, '2026-12-01', '2026-12-01 to 2026-12-31'])]
    #[TestWith([BudgetPeriod::Quarter, '2026-01-01', '2026-01-01 to 2026-03-31'])]
    #[TestWith([BudgetPeriod::Quarter, '2026-03-31', '2026-01-01 to 2026-03-31'])]
    #[TestWith([BudgetPeriod::Quarter, '2026-05-15', '2026-04-01 to 2026-06-30'])]
    #[TestWith([BudgetPeriod::Quarter, '2026-12-31', '2026-10-01 to 2026-12-31'])]
    public function test_a_day_lies_in_its_month_and_quarter(BudgetPeriod $period, string $day, string $days): void
    {
        self::assertSame($days, $period->days((int) strtotime("{$day} UTC"))->text());
    }

    #[TestWith(['50', 0.5, 0.5, false, false])]
    #[TestWith(['55', 0.5, 0.55, false, false])]
    #[TestWith(['55.1', 0.5, 0.551, true, false])]
    #[TestWith(['100', 1.0, 1.0, false, false])]
    #[TestWith(['100.01', 1.0, 1.0001, false, true])]
    #[TestWith(['0', 0.0, 0.0, false, false])]
    public function test_a_budget_stands_as_fast_as_it_is_spent(string $used, float $gone, float $share, bool $fast, bool $passed): void
    {
        $use = new BudgetUse(BigDecimal::of(100), BigDecimal::of($used), $gone);
        self::assertSame([$share, $fast, $passed], [$use->share(), $use->isFast(), $use->isPassed()]);
        self::assertTrue($use->left()->plus($used)->isEqualTo(100));
    }
}
