<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Cost\Charts\CostFigure;
use App\Estate\Models\Cluster;
use App\Platform\Figures\Figure;
use App\Platform\Support\Money;
use App\Telemetry\Usage\TableUsage;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Allocation;
use Fulcrion\Core\Cost\Shares;
use Fulcrion\Core\Text\Quantity;

/**
 * What clusters cost, and whose it is.
 */
final readonly class CostPage
{
    /** All parts that are not shown by themselves. */
    public const OTHER = "\0other";

    public const TABLES = 'table';

    /**
     * @param  list<ClusterCost>  $clusters that have prices, of one currency
     * @param  list<Cluster>  $without prices
     * @param  list<Cluster>  $others in another currency, which is not added to this one
     * @param  array<array-key, array{shared: BigDecimal, own: BigDecimal, all: BigDecimal}>  $parts by team or what else is asked for,
     *     the largest first; idle time under Allocation::IDLE
     */
    private function __construct(
        public UsageScope $scope,
        public array $clusters,
        public array $without,
        public array $others,
        public string $currency,
        public UsageField $by,
        /** Whether what statements cost is shared among the tables they name. */
        public bool $byTables,
        public array $parts,
    ) {
    }

    public static function of(
        UsageScope $scope,
        Prices $prices,
        int $now,
        UsageField $by = UsageField::Team,
        bool $byTables = false,
    ): self {
        $by = $byTables ? UsageField::Statement : $by;
        $with = $without = $others = [];
        $withTeam = $scope->teams !== null || self::only($scope) !== null;
        $currency = '';
        foreach (Cluster::query()->orderBy('name')->get() as $cluster) {
            if ($scope->cluster !== null && ! $cluster->is($scope->cluster)) {
                continue;
            }
            $cost = ClusterCost::of($cluster, $scope->days, $prices, $now, $by, $withTeam, $byTables && ! $withTeam);
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

        return new self($scope, $with, $without, $others, $currency, $by, $byTables, self::partsOf($with, $scope, $by, $byTables));
    }

    /**
     * @param  list<ClusterCost>  $clusters
     * @return array<array-key, array{shared: BigDecimal, own: BigDecimal, all: BigDecimal}> by team or what else is asked for, the largest
     *     first; idle time under Allocation::IDLE
     */
    private static function partsOf(array $clusters, UsageScope $scope, UsageField $by, bool $byTables): array
    {
        $parts = [];
        $only = self::only($scope);
        $zero = BigDecimal::zero()->toScale(2);
        foreach ($clusters as $cost) {
            $tables = $byTables ? TableUsage::weightsByStatement($cost->cluster->id) : [];
            $allocation = $cost->allocation;
            foreach ([['shared', $allocation->shared], ['shared', $allocation->reserved], ['own', $allocation->own]] as [$part, $amounts]) {
                foreach ($amounts as $key => $amount) {
                    $name = (string) $key;
                    if ($scope->teams !== null || $only !== null) {
                        [$team, $name] = [...explode(ClusterCost::SEPARATOR, $name, 2), ''];
                        if (! in_array($team, $scope->teams ?? [$team], true) || $team !== ($only ?? $team)) {
                            continue;
                        }
                    }
                    $name = $name === '' ? $by->none() : $name;
                    foreach (self::split($name, $amount, $byTables ? $tables : null) as $key => $some) {
                        $parts[$key] ??= ['shared' => $zero, 'own' => $zero, 'all' => $zero];
                        $parts[$key][$part] = $parts[$key][$part]->plus($some);
                        $parts[$key]['all'] = $parts[$key]['all']->plus($some);
                    }
                }
            }
            foreach ($cost->storage as $table => $amount) {
                $parts[$table] ??= ['shared' => $zero, 'own' => $zero, 'all' => $zero];
                $parts[$table]['own'] = $parts[$table]['own']->plus($amount);
                $parts[$table]['all'] = $parts[$table]['all']->plus($amount);
            }
        }
        uksort($parts, static fn (int|string $a, int|string $b): int => [$parts[$b]['all']->compareTo($parts[$a]['all']), (string) $a]
            <=> [0, (string) $b]);
        // Idle time is nobody's, and stands behind those that are somebody's.
        $idle = array_intersect_key($parts, [Allocation::IDLE => 1]);

        return array_diff_key($parts, $idle) + $idle;
    }

    /**
     * What a statement costs, as it is or by its tables.
     *
     * @param  array<string, non-empty-array<string, int>>|null  $tables weight by table, by fingerprint; null where it stays as it is
     * @return array<array-key, BigDecimal>
     */
    private static function split(string $name, BigDecimal $amount, ?array $tables): array
    {
        return $tables === null || in_array($name, [Allocation::IDLE, WorkerUse::JOBS, ClusterCost::RESERVED], true) ? [$name => $amount]
            : Shares::split($amount, $tables[$name] ?? [TableUsage::NONE => 1]);
    }

    /**
     * The largest, the others together, and idle time.
     *
     * @return array<array-key, array{shared: BigDecimal, own: BigDecimal, all: BigDecimal}>
     */
    public function foremost(int $count): array
    {
        $parts = $this->parts;
        $idle = array_intersect_key($parts, [Allocation::IDLE => 1]);
        $parts = array_diff_key($parts, $idle);
        if (count($parts) <= $count) {
            return $parts + $idle;
        }
        $zero = BigDecimal::zero()->toScale(2);
        $rest = ['shared' => $zero, 'own' => $zero, 'all' => $zero];
        foreach (array_slice($parts, $count, null, true) as $one) {
            $rest = array_map(static fn (string $key): BigDecimal => $rest[$key]->plus($one[$key]), ['shared' => 'shared', 'own' => 'own',
                'all' => 'all']);
        }

        return array_slice($parts, 0, $count, true) + [self::OTHER => $rest] + $idle;
    }

    /** Of what is shown; of all teams that is what the clusters cost. */
    public function total(): BigDecimal
    {
        return BigDecimal::sum(
            BigDecimal::zero()->toScale(2),
            ...array_values(array_map(static fn (array $one): BigDecimal => $one['all'], $this->parts)),
        );
    }

    /** The only team that is asked for. */
    public function team(): ?string
    {
        return self::only($this->scope);
    }

    private static function only(UsageScope $scope): ?string
    {
        return $scope->only[UsageField::Team->value] ?? null;
    }

    /**
     * How few of the parts make four fifths of the cost.
     *
     * @return array{int, float} their number, and their share
     */
    public function few(): array
    {
        $total = $this->total()->toFloat();
        $sum = 0.0;
        $count = 0;
        foreach ($this->parts as $part) {
            if ($total <= 0 || $sum >= 0.8 * $total) {
                break;
            }
            $sum += $part['all']->toFloat();
            $count++;
        }

        return [$count, $total <= 0 ? 0.0 : $sum / $total];
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

    /** What it is by, as an address says it. */
    public function byKey(): string
    {
        return $this->byTables ? self::TABLES : $this->by->value;
    }

    public function byLabel(): string
    {
        return $this->byTables ? 'table' : $this->by->label();
    }

    public function sentence(): string
    {
        $days = $this->scope->days->describe();
        if ($this->clusters === []) {
            return 'No cluster has a price yet, so nothing can be said of cost';
        }
        $names = array_map(static fn (ClusterCost $one): string => $one->cluster->name, $this->clusters);
        $teams = array_diff_key($this->parts, [Allocation::IDLE => 1]);
        $first = array_key_first($teams);
        $last = array_pop($names);

        if ($this->team() !== null) {
            [$count, $share] = $this->few();
            $of = count($this->parts);
            $what = $this->byTables ? ($of === 1 ? 'table' : 'tables') : ($of === 1 ? $this->by->label() : $this->by->plural());

            return $first === null ? "{$this->team()} used nothing that has a price, {$days}"
                : "{$this->team()} cost {$this->money($this->total())}, {$days}; {$count} of {$of} {$what} "
                    .($count === 1 ? 'makes' : 'make').' '.Quantity::percent($share).' of it';
        }
        if ($this->isLimited()) {
            return $first === null ? "None of your teams used anything, {$days}"
                : "Your part of the cost is {$this->money($this->total())}, {$days}";
        }

        return ($names === [] ? '' : implode(', ', $names).' and ')."{$last} cost {$this->money($this->total())}, {$days}".
            $this->idle().($first === null ? ''
                : "; the largest {$this->byLabel()} is {$this->name($first)}, {$this->money($teams[$first]['all'])}");
    }

    private function idle(): string
    {
        $idle = $this->parts[Allocation::IDLE]['all'] ?? BigDecimal::zero();
        $total = $this->total();

        return $total->isZero() || $idle->isZero() ? '' : '; '.Quantity::percent($idle->toFloat() / $total->toFloat()).' of it was idle';
    }

    public function figure(): ?Figure
    {
        return $this->clusters === [] ? null : CostFigure::draw($this);
    }

    public function name(int|string $part): string
    {
        return match (true) {
            $part === Allocation::IDLE => 'idle',
            $part === self::OTHER => 'all others',
            $part === WorkerUse::JOBS => 'workers of jobs',
            $part === ClusterCost::RESERVED => 'reserved and not used',
            $this->by === UsageField::Statement && ! $this->byTables => substr((string) $part, 0, 8),
            default => (string) $part,
        };
    }
}
