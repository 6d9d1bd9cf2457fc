<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Telemetry\Usage\UsageAxis;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageFold;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Fulcrion\Core\Cost\Allocation;
use Fulcrion\Core\Cost\CostLine;
use Fulcrion\Core\Cost\IdleRule;
use Fulcrion\Core\Cost\PriceBook;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Cost\Reserve;
use Fulcrion\Core\Cost\Shares;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\DB;

/**
 * What one cluster cost in some days, and whose it is.
 */
final readonly class ClusterCost
{
    /** Between a team and what else a part is by. */
    public const SEPARATOR = "\x1f";

    /** What was reserved and not used, where what is asked for is not known of teams. */
    public const RESERVED = "\0reserved";

    private const TEBIBYTE = 1_099_511_627_776;

    /**
     * @param  list<CostLine>  $lines
     * @param  float  $busy share of the hours in which something ran
     * @param  array<string, BigDecimal>  $storage what each table's own bytes cost, where that was asked for apart
     */
    private function __construct(
        public Cluster $cluster,
        public CostRule $rule,
        public array $lines,
        public Allocation $allocation,
        public float $busy,
        public array $storage = [],
    ) {
    }

    /**
     * @param  bool  $withTeam whether each part names its team too, before SEPARATOR
     * @param  bool  $storageApart whether storage is told by table instead of following use
     * @return self|null null where it has no price
     */
    public static function of(
        Cluster $cluster,
        Days $days,
        Prices $prices,
        int $now,
        UsageField $by = UsageField::Team,
        bool $withTeam = false,
        bool $storageApart = false,
    ): ?self {
        $book = $prices->book($cluster);
        if ($book->prices === []) {
            return null;
        }
        $rule = $prices->rule($cluster);
        $calendar = app(Calendar::class);
        [$from, $end] = $calendar->span($days);
        // A day that is not over has cost so much as of it is over.
        $to = min($end, max($from + 1, $now));
        $standing = $book->standing($from, $to, $calendar->month(...));
        $use = self::use($cluster, $days, [$rule->follows, UsageMeasure::Scanned], $by, $withTeam);
        $byUse = self::scanned($cluster, $book, $from, $to, $calendar);
        $workers = WorkerUse::of($cluster, $from, $to, $calendar);
        $workerLines = $workers->lines($book, $from, $to);
        $keptLines = Quantities::lines($cluster, $book, $from, $to, $calendar);
        $busy = self::busy($cluster, $days, $to - $from);
        $storage = $storageApart ? self::storage($cluster, $days, $keptLines) : [];
        $kept = self::sum($keptLines)->minus(BigDecimal::sum(BigDecimal::zero(), ...array_values($storage)));

        return new self(
            $cluster,
            $rule,
            [...$standing, ...$byUse, ...$workerLines, ...$keptLines],
            Allocation::of(
                self::sum($standing),
                self::sum($byUse),
                $use[$rule->follows->value],
                $use[UsageMeasure::Scanned->value],
                $busy,
                $rule->idle,
                $workerLines === [] ? [] : [[self::sum($workerLines), $workers->by($by, $withTeam)]],
                $kept,
                $rule->idle === IdleRule::ToReservers ? self::unused($cluster, $days, $rule, $busy, $by, $withTeam) : [],
            ),
            $busy,
            $storage,
        );
    }

    public function total(): BigDecimal
    {
        return BigDecimal::sum($this->allocation->total, ...array_values($this->storage));
    }

    /**
     * @return array<string, int> millionths of the cluster by who reserved them and did not use them
     */
    private static function unused(Cluster $cluster, Days $days, CostRule $rule, float $busy, UsageField $by, bool $withTeam): array
    {
        $reserved = Reservations::of($cluster, $days);
        $follows = self::use($cluster, $days, [$rule->follows], UsageField::Team, false)[$rule->follows->value];
        $unused = [];
        foreach ($reserved === [] ? [] : Reserve::unused($reserved, $follows, $busy) as $team => $part) {
            $key = $by === UsageField::Team ? $team : ($withTeam ? $team.self::SEPARATOR : '').self::RESERVED;
            $unused[$key] = ($unused[$key] ?? 0) + $part;
        }

        return $unused;
    }

    /**
     * @param  list<CostLine>  $lines
     * @return array<string, BigDecimal> by table, in whole cents
     */
    private static function storage(Cluster $cluster, Days $days, array $lines): array
    {
        $cost = self::sum(array_values(array_filter(
            $lines,
            static fn (CostLine $line): bool => $line->kind === PriceKind::StorageMonth && $line->name === '',
        )));

        return Shares::split($cost, StoredBytes::byTable($cluster, $days));
    }

    /**
     * What a cluster cost day by day, not rounded.
     *
     * @return list<CostLine> none longer than the day it lies in
     */
    public static function daily(Cluster $cluster, PriceBook $book, int $from, int $to, Calendar $by): array
    {
        $lines = [
            ...self::scanned($cluster, $book, $from, $to, $by), ...WorkerUse::of($cluster, $from, $to, $by)->lines($book, $from, $to),
            ...Quantities::lines($cluster, $book, $from, $to, $by),
        ];
        for ($day = $by->day($from); $by->begin($day) < $to; $day += Days::DAY) {
            array_push($lines, ...$book->standing(max($from, $by->begin($day)), min($to, $by->end($day)), $by->month(...)));
        }

        return $lines;
    }

    /**
     * @param  list<CostLine>  $lines
     */
    public static function sum(array $lines): BigDecimal
    {
        return BigDecimal::sum(BigDecimal::zero(), ...array_map(static fn (CostLine $line): BigDecimal => $line->amount, $lines));
    }

    /**
     * Lines of the same thing at the same price together.
     *
     * @return list<CostLine>
     */
    public function summed(): array
    {
        $summed = [];
        foreach ($this->lines as $line) {
            $key = "{$line->kind->value}|{$line->name}|{$line->price}";
            $known = $summed[$key] ?? null;
            $summed[$key] = $known === null ? $line : new CostLine(
                $line->kind,
                $line->name,
                $line->kind === PriceKind::Discount ? $line->quantity : $known->quantity->plus($line->quantity),
                $line->price,
                $known->amount->plus($line->amount),
                min($known->from, $line->from),
                max($known->to, $line->to),
            );
        }

        return array_values($summed);
    }

    /**
     * Of each hour the share in which something ran: more than one statement at once is no more than all of it.
     */
    private static function busy(Cluster $cluster, Days $days, int $seconds): float
    {
        $busyUs = DB::table('usage_days')
            ->where('cluster_id', $cluster->id)
            ->where('day_at', '>=', $days->from)
            ->where('day_at', '<', $days->to)
            ->sum('busy_us');

        return min(1.0, (float) $busyUs / 1e6 / max(3_600, $seconds));
    }

    /**
     * Each day at the prices its first moment has, and in the tier the month had come to by then.
     *
     * @return list<CostLine>
     */
    private static function scanned(Cluster $cluster, PriceBook $book, int $from, int $to, Calendar $by): array
    {
        $lines = [];
        $before = BigDecimal::zero();
        $first = $by->day($from);
        $month = Days::month(gmdate('Y-m', $first));
        $days = new Days($month->from, $by->day($to - 1) + Days::DAY);
        foreach (DailyUse::of($cluster, UsageMeasure::Scanned, $days, $by) as $day => $bytes) {
            if ($day >= $month->to) {
                [$month, $before] = [Days::month(gmdate('Y-m', $day)), BigDecimal::zero()];
            }
            $used = BigDecimal::of((string) max(0, $bytes))->dividedBy(self::TEBIBYTE, 12, RoundingMode::HALF_EVEN);
            if ($day >= $first) {
                $at = max($from, $by->begin($day));
                array_push($lines, ...$book->used(PriceKind::ScannedTebibyte, '', $used, $before, $at, $at, min($to, $by->end($day))));
            }
            $before = $before->plus($used);
        }

        return $lines;
    }

    /**
     * @param  list<UsageMeasure>  $measures
     * @return array<string, array<string, int>> measure => what it is by => use
     */
    private static function use(Cluster $cluster, Days $days, array $measures, UsageField $by, bool $withTeam): array
    {
        $names = array_unique(array_map(static fn (UsageMeasure $one): string => $one->value, $measures));
        $use = array_fill_keys($names, []);
        $axes = $withTeam ? [UsageAxis::field(UsageField::Team), UsageAxis::field($by)] : [UsageAxis::field($by)];
        $scope = UsageScope::within($days, UsageMeasure::Executions, $cluster);
        $order = $withTeam ? 'by0, by1' : 'by0';
        foreach (DB::select((new UsageFold($scope, $days, $axes, array_values($names)))->named()." ORDER BY {$order}") as $row) {
            $key = $withTeam ? $row->by0.self::SEPARATOR.$row->by1 : (string) $row->by0;
            foreach ($names as $name) {
                $use[$name][$key] = max(0, (int) $row->{$name});
            }
        }

        return $use;
    }
}
