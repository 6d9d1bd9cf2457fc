<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Cost\Application\Budgets;
use App\Cost\Application\CostPage;
use App\Cost\Application\Prices;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Fulcrion\Core\Cost\BudgetPeriod;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\DB;

/**
 * Budgets of the teams of the demo world: one is passed about the 21st of a month at what the team costs, all others are ample.
 */
final readonly class DemoBudgets
{
    private const DAYS = 27;

    private const PASSED_ON = 21;

    private const AMPLE = 40;

    public function __construct(private Prices $prices, private Budgets $budgets)
    {
    }

    public function write(int $now): void
    {
        if (DB::table('budgets')->exists()) {
            return;
        }
        $days = Days::parse('last '.self::DAYS.' days', $now);
        $page = CostPage::of(UsageScope::within($days, UsageMeasure::InFlight), $this->prices, $now, UsageField::Team);
        foreach ($page->parts as $team => $cost) {
            if (in_array($team, ['forecast_lab', 'boards', 'packhouse', 'agronomy', 'energy_desk'], true)) {
                $this->set('team', $team, $cost['all'], $team === 'forecast_lab' ? self::PASSED_ON : self::AMPLE, $days->from);
            }
        }
        $this->set('estate', '', $page->total(), self::AMPLE, $days->from);
    }

    private function set(string $of, string $name, BigDecimal $cost, int $days, int $from): void
    {
        $amount = $cost->multipliedBy($days)->dividedBy(self::DAYS, 0, RoundingMode::HALF_UP);
        $this->budgets->set($of, $name, BudgetPeriod::Month, $amount, 'EUR', $from, 'Marta Ellwood');
    }
}
