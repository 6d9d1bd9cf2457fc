<?php

declare(strict_types=1);

namespace App\Cost\Application;

use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\BudgetPeriod;
use Fulcrion\Core\Cost\BudgetUse;
use Fulcrion\Core\Usage\Days;

/**
 * What somebody plans to spend in each month or quarter, and how it stands in the present one.
 */
final readonly class Budget
{
    /** What it may be of. */
    public const OF = ['team', 'cluster', 'estate'];

    /**
     * @param  BudgetUse|null  $use null where nothing is priced in its currency
     */
    public function __construct(
        public int $id,
        public string $of,
        public string $name,
        public BudgetPeriod $period,
        public BigDecimal $amount,
        public string $currency,
        public Days $days,
        public ?BudgetUse $use,
        public string $madeBy,
    ) {
    }

    /** Whose it is, in words. */
    public function whose(): string
    {
        return match ($this->of) {
            'estate' => 'all clusters',
            'cluster' => "cluster {$this->name}",
            default => $this->name,
        };
    }

    public function mark(): string
    {
        return match (true) {
            $this->use === null => 'no data',
            $this->use->isPassed() => 'act',
            $this->use->isFast() => 'watch',
            default => 'calm',
        };
    }

    public function standing(): string
    {
        return match (true) {
            $this->use === null => 'nothing is priced in its currency',
            $this->use->isPassed() => 'passed',
            $this->use->isFast() => 'faster than time goes by',
            default => 'within it',
        };
    }
}
