<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Estate\Models\Cluster;
use App\Platform\Figures\Figure;
use App\Platform\Support\Money;
use App\Usage\Charts\CostFigure;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Allocation;
use Fulcrion\Core\Text\Quantity;

/**
 * What clusters cost, and whose it is.
 */
final readonly class CostPage
{
    /**
     * @param  list<ClusterCost>  $clusters that have prices, of one currency
     * @param  list<Cluster>  $without prices
     * @param  list<Cluster>  $others in another currency, which is not added to this one
     */
    private function __construct(
        public UsageScope $scope,
        public array $clusters,
        public array $without,
        public array $others,
        public string $currency,
    ) {
    }

    public static function of(UsageScope $scope, Prices $prices, int $now): self
    {
        $with = $without = $others = [];
        $currency = '';
        foreach (Cluster::query()->orderBy('name')->get() as $cluster) {
            if ($scope->cluster !== null && ! $cluster->is($scope->cluster)) {
                continue;
            }
            $cost = ClusterCost::of($cluster, $scope->days, $prices, $now);
            if ($cost === null) {
                $without[] = $cluster;

                continue;
            }
            $currency = $currency === '' ? $cost->rule->currency : $currency;
            if ($cost->rule->currency === $currency) {
                $with[] = $cost;
            } else {
                $others[] = $cluster;
            }
        }

        return new self($scope, $with, $without, $others, $currency);
    }

    /**
     * @return array<string, array{shared: BigDecimal, own: BigDecimal, all: BigDecimal}> by team, the largest first; idle time under
     *     Allocation::IDLE
     */
    public function teams(): array
    {
        $teams = [];
        $zero = BigDecimal::zero()->toScale(2);
        foreach ($this->clusters as $cost) {
            foreach (['shared' => $cost->allocation->shared, 'own' => $cost->allocation->own] as $part => $amounts) {
                foreach ($amounts as $team => $amount) {
                    $teams[$team] ??= ['shared' => $zero, 'own' => $zero, 'all' => $zero];
                    $teams[$team][$part] = $teams[$team][$part]->plus($amount);
                    $teams[$team]['all'] = $teams[$team]['all']->plus($amount);
                }
            }
        }
        uksort($teams, static fn (string $a, string $b): int => [$teams[$b]['all']->compareTo($teams[$a]['all']), $a] <=> [0, $b]);
        // Idle time is nobody's, and stands behind those that are somebody's.
        $idle = array_intersect_key($teams, [Allocation::IDLE => 1]);
        $teams = array_diff_key($teams, $idle) + $idle;

        return $this->scope->teams === null ? $teams : array_intersect_key($teams, array_flip($this->scope->teams));
    }

    /** Of the teams that are shown; of all of them that is what the clusters cost. */
    public function total(): BigDecimal
    {
        return BigDecimal::sum(
            BigDecimal::zero()->toScale(2),
            ...array_values(array_map(static fn (array $one): BigDecimal => $one['all'], $this->teams())),
        );
    }

    /** Whether whoever looks is limited to some teams, and so is not shown what clusters cost. */
    public function isLimited(): bool
    {
        return $this->scope->teams !== null;
    }

    public function money(BigDecimal $amount): string
    {
        return Money::exact($amount, $this->currency);
    }

    public function sentence(): string
    {
        $days = $this->scope->days->describe();
        if ($this->clusters === []) {
            return 'No cluster has a price yet, so nothing can be said of cost';
        }
        $names = array_map(static fn (ClusterCost $one): string => $one->cluster->name, $this->clusters);
        $teams = array_diff_key($this->teams(), [Allocation::IDLE => 1]);
        $first = array_key_first($teams);
        $last = array_pop($names);

        if ($this->isLimited()) {
            return $first === null ? "None of your teams used anything, {$days}"
                : "Your part of the cost is {$this->money($this->total())}, {$days}";
        }

        return ($names === [] ? '' : implode(', ', $names).' and ')."{$last} cost {$this->money($this->total())}, {$days}".
            $this->idle().($first === null ? '' : "; {$first} is the largest team, {$this->money($teams[$first]['all'])}");
    }

    private function idle(): string
    {
        $idle = $this->teams()[Allocation::IDLE]['all'] ?? BigDecimal::zero();
        $total = $this->total();

        return $total->isZero() || $idle->isZero() ? '' : '; '.Quantity::percent($idle->toFloat() / $total->toFloat()).' of it was idle';
    }

    public function figure(): ?Figure
    {
        return $this->clusters === [] ? null : CostFigure::draw($this);
    }

    public static function team(string $team): string
    {
        return $team === Allocation::IDLE ? 'idle' : $team;
    }
}
