<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Cost\Charts\DaysFigure;
use App\Platform\Figures\Figure;
use App\Platform\Support\Money;
use App\Telemetry\Usage\Amount;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Fulcrion\Core\Cost\CostBridge;
use Fulcrion\Core\Usage\UsageBridge;
use Fulcrion\Core\Usage\UsageMeasure;
use Fulcrion\Core\Usage\Used;

/**
 * What a team used, what it cost, what changed and why, and what would make it cheaper.
 */
final readonly class TeamAccount
{
    /**
     * @param  list<TeamCost>  $costs of one currency
     * @param  list<string>  $unpriced names of clusters it used that have no price, or one in another currency
     * @param  array<string, array{Used, Used}>  $use before and now, by measure
     * @param  UsageBridge  $bridge of the measure of the scope, by statement
     * @param  array<string, string>  $texts of statements
     * @param  array<string, BigDecimal>  $statements cost by fingerprint, the largest first
     * @param  array<string, array{finding: int, problem: string, month: BigDecimal}>  $remedies by fingerprint
     * @param  list<array{change: int, title: string, month: BigDecimal, currency: string}>  $savings its part of what changes save
     * @param  array<int, int>  $daily amount of the measure by start of day, of both periods
     */
    public function __construct(
        public string $team,
        public UsageScope $scope,
        public string $currency,
        public array $costs,
        public array $unpriced,
        public array $use,
        public UsageBridge $bridge,
        public array $texts,
        public array $statements,
        public array $remedies,
        public array $savings,
        public array $daily,
        /** Whether use is known of all days it is held against. */
        public bool $knowsBefore,
        /** @var list<Budget> of the month and quarter the days end in */
        public array $budgets = [],
    ) {
    }

    public function hasUse(): bool
    {
        return ! $this->bridge->after->isNothing() || ! $this->bridge->before->isNothing();
    }

    public function total(): BigDecimal
    {
        return array_reduce($this->costs, static fn (BigDecimal $sum, TeamCost $one): BigDecimal => $sum->plus($one->all()), self::zero());
    }

    /** Null where a cluster had no price or no use is known in the days before, so that a sum would be too small. */
    public function totalBefore(): ?BigDecimal
    {
        $sum = self::zero();
        foreach ($this->costs as $one) {
            if ($one->before === null) {
                return null;
            }
            $sum = $sum->plus($one->before);
        }

        return $sum;
    }

    /**
     * Why it costs more or less, in parts that add up to the change.
     *
     * @return list<array{string, BigDecimal}>|null what and how much; null where that is not known of a cluster
     */
    public function why(): ?array
    {
        $fixed = CostBridge::none();
        $own = $reserved = self::zero();
        foreach ($this->costs as $one) {
            if ($one->why === null || $one->ownChange === null || $one->reservedChange === null) {
                return null;
            }
            $fixed = $fixed->plus($one->why);
            $own = $own->plus($one->ownChange);
            $reserved = $reserved->plus($one->reservedChange);
        }

        return [
            ['statements that are new', $fixed->new],
            ['statements that are gone', $fixed->gone],
            ['more or fewer executions', $fixed->moreExecutions],
            ['more or less per execution', $fixed->moreEach],
            ['what a unit of use costs: other prices, and how much of the cluster is used', $fixed->price],
            ['what its own use is charged, such as bytes scanned and workers', $own],
            ['what it reserved and did not use', $reserved],
        ];
    }

    public function moneyChange(BigDecimal $amount): string
    {
        return ($amount->isPositive() ? '+' : '').$this->money($amount);
    }

    public function money(BigDecimal $amount): string
    {
        return Money::exact($amount, $this->currency);
    }

    public function sentence(): string
    {
        $days = $this->scope->days->describe();
        if (! $this->hasUse()) {
            return "{$this->team} used nothing, {$days}".($this->total()->isZero() ? ''
                : "; what it reserved cost {$this->money($this->total())}");
        }
        if ($this->costs === []) {
            return "{$this->team} used ".Amount::of($this->scope->measure, $this->bridge->after->amount).
                " of {$this->scope->measure->label()}, {$days}: no cluster it used has a price";
        }
        $before = $this->knowsBefore ? $this->totalBefore() : null;
        $cents = static fn (BigDecimal $amount): int => $amount->multipliedBy(100)->toScale(0, RoundingMode::HALF_UP)->toInt();

        return "{$this->team} cost {$this->money($this->total())}, {$days}".($before === null || $before->isZero() ? ''
            : ': '.Amount::against($cents($before), $cents($this->total()), $this->scope->againstText));
    }

    /** What made the change, in words; empty where nothing changed. */
    public function reason(): string
    {
        $parts = array_filter($this->bridge->parts(), static fn (int $part): bool => $part !== 0);
        uasort($parts, static fn (int $a, int $b): int => abs($b) <=> abs($a));
        $first = array_key_first($parts);
        $measure = $this->scope->measure;

        return $first === null ? '' : ucfirst($measure->label()).' changed by '.Amount::change($measure, $this->bridge->change()).
            ', most of it by '.match ($first) {
                'new' => 'statements that are new',
                'gone' => 'statements that are gone',
                'moreExecutions' => $parts[$first] > 0 ? 'more executions' : 'fewer executions',
                default => $parts[$first] > 0 ? 'more per execution' : 'less per execution',
            };
    }

    public function saved(): BigDecimal
    {
        return array_reduce(
            array_filter($this->savings, fn (array $one): bool => $one['currency'] === $this->currency),
            static fn (BigDecimal $sum, array $one): BigDecimal => $sum->plus($one['month']),
            self::zero(),
        );
    }

    /** How few of its statements make four fifths of its cost. */
    public function few(): int
    {
        $sum = self::zero();
        $all = array_reduce($this->statements, static fn (BigDecimal $sum, BigDecimal $one): BigDecimal => $sum->plus($one), self::zero());
        $count = 0;
        foreach ($this->statements as $one) {
            if ($sum->isGreaterThanOrEqualTo($all->multipliedBy('0.8'))) {
                break;
            }
            $sum = $sum->plus($one);
            $count++;
        }

        return $count;
    }

    public function figure(): ?Figure
    {
        return $this->hasUse() ? DaysFigure::draw($this) : null;
    }

    public static function zero(): BigDecimal
    {
        return BigDecimal::zero()->toScale(2);
    }

    public function name(string $fingerprint, int $width = 100): string
    {
        $text = trim((string) preg_replace('~\s+~', ' ', $this->texts[$fingerprint] ?? ''));

        return mb_strimwidth(substr($fingerprint, 0, 8)." {$text}", 0, $width, '…');
    }

    /** The month its days begin in, as 2026-11. */
    public function month(): string
    {
        return gmdate('Y-m', $this->scope->days->from);
    }

    public function measure(): UsageMeasure
    {
        return $this->scope->measure;
    }
}
