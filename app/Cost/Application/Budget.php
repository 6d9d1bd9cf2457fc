<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Platform\Support\MomentStyle;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\BudgetPeriod;
use Fulcrion\Core\Cost\BudgetUse;
use Fulcrion\Core\Forecast\PeriodForecast;
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
     * @param  list<int>  $shares
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
        /** Percentages of it somebody wants to be told of, ascending. */
        public array $shares = [],
        /** Who is written to; null for nobody. */
        public ?string $recipient = null,
        /** Where the period is expected to end; null where that was not asked for or nothing is known. */
        public ?PeriodForecast $forecast = null,
    ) {
    }

    /** The day on which it was or will be passed; null where it will not be, or that is not known. */
    public function passes(): ?int
    {
        return $this->forecast?->passes($this->amount->toFloat());
    }

    /** The part of it that will be spent; null where that is not known. */
    public function expected(): ?float
    {
        return $this->forecast === null || $this->use === null ? null
            : max($this->use->share(), $this->forecast->expected() / $this->amount->toFloat());
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
            $this->passes() !== null, $this->forecast === null && $this->use->isFast() => 'watch',
            default => 'calm',
        };
    }

    public function standing(): string
    {
        return match (true) {
            $this->use === null => 'nothing is priced in its currency',
            $this->use->isPassed() => 'passed',
            $this->passes() !== null => 'will be passed about '.onUtc($this->passes(), MomentStyle::ShortDay),
            $this->forecast === null && $this->use->isFast() => 'faster than time goes by',
            default => 'within it',
        };
    }
}
