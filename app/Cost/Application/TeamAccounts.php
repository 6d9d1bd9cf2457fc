<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Fulcrion\Core\Cost\Allocation;
use Fulcrion\Core\Cost\CostBridge;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageBridge;
use Fulcrion\Core\Usage\UsageChange;
use Fulcrion\Core\Usage\UsageMeasure;
use Fulcrion\Core\Usage\Used;
use Illuminate\Support\Facades\DB;

/**
 * Adds up what a team used and cost.
 */
final readonly class TeamAccounts
{
    /** Statements an account names. */
    public const STATEMENTS = 12;

    /** Statements that are named as having changed. */
    public const CHANGES = 8;

    public function __construct(
        private UsageReader $reader,
        private Prices $prices,
        private Savings $savings,
        private Remedies $remedies,
        private Calendar $calendar,
        private Budgets $budgets,
    ) {
    }

    /**
     * @return list<string> all teams something was ever used by
     */
    public static function teams(): array
    {
        return array_values(DB::table('usage_teams')->orderBy('name')->pluck('name')->map(strval(...))->all());
    }

    public function of(string $team, Days $days, int $now, UsageMeasure $measure = UsageMeasure::InFlight): TeamAccount
    {
        $only = [UsageField::Team->value => $team];
        $scope = UsageScope::within($days, $measure, null, $only);
        $first = $this->reader->first();
        $knows = $first !== null && $first <= $scope->against->from;
        [$currency, $costs, $unpriced] = $this->costs($team, $scope, $now, $knows);
        $page = CostPage::of($scope, $this->prices, $now, UsageField::Statement);
        $statements = $page->currency === $currency || $currency === '' ? $page->parts : [];
        unset($statements[Allocation::IDLE], $statements[WorkerUse::JOBS], $statements[ClusterCost::RESERVED], $statements['']);
        $statements = array_map(static fn (array $one): BigDecimal => $one['all'], $statements);
        $used = $this->reader->by(UsageField::Statement, $scope, $scope->days);
        $bridge = UsageBridge::of($this->reader->by(UsageField::Statement, $scope, $scope->against), $used);
        $first = array_slice($statements, 0, self::STATEMENTS, true);
        $changed = array_map(static fn (UsageChange $one): string => $one->key, array_slice($bridge->changes, 0, self::CHANGES));

        return new TeamAccount(
            $team,
            $scope,
            $currency,
            $costs,
            $unpriced,
            $this->use($scope),
            $bridge,
            $this->reader->texts(array_values(array_unique([...array_map(strval(...), array_keys($first)), ...$changed]))),
            $statements,
            $first === [] ? [] : $this->remedies->of($first, $scope),
            $used === [] ? [] : $this->savings($scope, $used, $now),
            $this->daily($scope),
            $knows,
            $this->budgets->ofTeam($team, $days, $now),
        );
    }

    /**
     * @return array{string, list<TeamCost>, list<string>} currency, cost by cluster, and clusters that are not added
     */
    private function costs(string $team, UsageScope $scope, int $now, bool $knows): array
    {
        $used = $this->reader->by(UsageField::Cluster, $scope, $scope->days)
            + $this->reader->by(UsageField::Cluster, $scope, $scope->against);
        $currency = '';
        $costs = $unpriced = [];
        foreach (Cluster::query()->orderBy('name')->get() as $cluster) {
            if (! isset($used[$cluster->slug]) && ! Reservations::reserves($cluster, $team, $scope->days)) {
                continue;
            }
            $cost = ClusterCost::of($cluster, $scope->days, $this->prices, $now);
            $currency = $currency === '' ? $cost->rule->currency ?? '' : $currency;
            if ($cost === null || $cost->rule->currency !== $currency) {
                $unpriced[] = $cluster->name;

                continue;
            }
            $part = static fn (ClusterCost $of): array => [
                $of->allocation->shared[$team] ?? TeamAccount::zero(), $of->allocation->own[$team] ?? TeamAccount::zero(),
                $of->allocation->reserved[$team] ?? TeamAccount::zero(),
            ];
            [$shared, $own, $reserved] = $part($cost);
            $before = ! $knows || $this->prices->book($cluster)->inForce($this->calendar->begin($scope->against->from)) === [] ? null
                : ClusterCost::of($cluster, $scope->against, $this->prices, $now);
            $then = $before === null ? null : $part($before);
            $costs[] = new TeamCost(
                $cluster->name,
                $currency,
                $shared,
                $own,
                $reserved,
                $then === null ? null : $then[0]->plus($then[1])->plus($then[2]),
                $then === null ? null : CostBridge::of($then[0], $shared, $this->followed($cluster, $cost->rule->follows, $scope)),
                $then === null ? null : $own->minus($then[1]),
                $then === null ? null : $reserved->minus($then[2]),
            );
        }

        return [$currency, $costs, $unpriced];
    }

    /** What the fixed cost of a cluster follows, of the team, by statement. */
    private function followed(Cluster $cluster, UsageMeasure $follows, UsageScope $scope): UsageBridge
    {
        $of = fn (Days $days): array => $this->reader->by(
            UsageField::Statement,
            UsageScope::within($days, $follows, $cluster, $scope->only),
            $days,
        );

        return UsageBridge::of($of($scope->against), $of($scope->days));
    }

    /**
     * @return array<string, array{Used, Used}> before and now, by measure
     */
    private function use(UsageScope $scope): array
    {
        [$before, $now] = [$this->reader->totals($scope, $scope->against), $this->reader->totals($scope, $scope->days)];
        $use = [];
        foreach (UsageMeasure::cases() as $measure) {
            $of = static fn (array $sums): Used => new Used($sums[UsageMeasure::Executions->value], $sums[$measure->value]);
            $use[$measure->value] = [$of($before), $of($now)];
        }

        return $use;
    }

    /**
     * @param  array<string, Used>  $mine what the team used, by statement
     * @return list<array{change: int, title: string, month: BigDecimal, currency: string}>
     */
    private function savings(UsageScope $scope, array $mine, int $now): array
    {
        $sum = static fn (array $use): int => array_sum(array_map(static fn (Used $used): int => $used->amount, $use));
        $savings = [];
        foreach ($this->savings->all($now) as $one) {
            $own = $sum(array_intersect_key($mine, array_fill_keys($one->statements, true)));
            if ($one->isInForce() && $one->savedMoney !== null && $own > 0) {
                $all = UsageScope::within($scope->days, $scope->measure);
                $savings[] = [
                    'change' => $one->change->id,
                    'title' => $one->change->title,
                    'month' => $one->savedMoney->multipliedBy($own)
                        ->dividedBy($sum($this->reader->ofStatements($one->statements, $all, $scope->days)), 2, RoundingMode::HALF_UP),
                    'currency' => $one->currency,
                ];
            }
        }

        return $savings;
    }

    /**
     * @return array<int, int>
     */
    private function daily(UsageScope $scope): array
    {
        $daily = [];
        foreach ([$scope->against, $scope->days] as $days) {
            foreach ($this->reader->daily($scope, $days) as $day => $teams) {
                $daily[$day] = array_sum($teams);
            }
        }

        return $daily;
    }
}
