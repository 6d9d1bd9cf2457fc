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
use Fulcrion\Core\Cost\PriceBook;
use Fulcrion\Core\Cost\PriceKind;
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

    private const TEBIBYTE = 1_099_511_627_776;

    /**
     * @param  list<CostLine>  $lines
     * @param  float  $busy share of the hours in which something ran
     */
    private function __construct(
        public Cluster $cluster,
        public CostRule $rule,
        public array $lines,
        public Allocation $allocation,
        public float $busy,
    ) {
    }

    /**
     * @param  bool  $withTeam whether each part names its team too, before SEPARATOR
     * @return self|null null where it has no price
     */
    public static function of(
        Cluster $cluster,
        Days $days,
        Prices $prices,
        int $now,
        UsageField $by = UsageField::Team,
        bool $withTeam = false,
    ): ?self {
        $book = $prices->book($cluster);
        if ($book->prices === []) {
            return null;
        }
        $rule = $prices->rule($cluster);
        // A day that is not over has cost so much as of it is over.
        $to = min($days->to, max($days->from + 1, $now));
        $standing = $book->standing($days->from, $to, self::monthOf(...));
        $use = self::use($cluster, $days, [$rule->follows, UsageMeasure::Scanned], $by, $withTeam);
        $byUse = self::scanned($cluster, $book, $days->from, $to);
        $workers = WorkerUse::of($cluster, $days->from, $to);
        $workerLines = $workers->lines($book, $days->from, $to);
        $busy = self::busy($cluster, $days->from, $to);

        return new self(
            $cluster,
            $rule,
            [...$standing, ...$byUse, ...$workerLines],
            Allocation::of(
                self::sum($standing),
                self::sum($byUse),
                $use[$rule->follows->value],
                $use[UsageMeasure::Scanned->value],
                $busy,
                $rule->idle,
                $workerLines === [] ? [] : [[self::sum($workerLines), $workers->by($by, $withTeam)]],
            ),
            $busy,
        );
    }

    /**
     * What a cluster cost day by day, not rounded.
     *
     * @return list<CostLine> none longer than the day it lies in
     */
    public static function daily(Cluster $cluster, PriceBook $book, int $from, int $to): array
    {
        $lines = [...self::scanned($cluster, $book, $from, $to), ...WorkerUse::of($cluster, $from, $to)->lines($book, $from, $to)];
        for ($day = $from - $from % 86_400; $day < $to; $day += 86_400) {
            array_push($lines, ...$book->standing(max($from, $day), min($to, $day + 86_400), self::monthOf(...)));
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
    private static function busy(Cluster $cluster, int $from, int $to): float
    {
        $hours = max(1.0, ($to - $from) / 3_600);
        $busy = DB::scalar(
            'SELECT SUM(LEAST(1, h.load_us / 3600000000)) FROM (SELECT bucket_at, SUM(load_us) AS load_us FROM load_by_origin_hour WHERE '
                .'cluster_id = ? AND bucket_at >= ? AND bucket_at < ? GROUP BY bucket_at) h',
            [$cluster->id, $from, $to],
        );

        return min(1.0, (float) $busy / $hours);
    }

    /**
     * Each day at the prices its first moment has, and in the tier the month had come to by then.
     *
     * @return list<CostLine>
     */
    private static function scanned(Cluster $cluster, PriceBook $book, int $from, int $to): array
    {
        $lines = [];
        $before = BigDecimal::zero();
        $month = self::monthOf($from);
        foreach (
            DB::select(
                'SELECT day_at, SUM(bytes_scanned) AS bytes FROM usage_origin_days WHERE cluster_id = ? AND day_at >= ? AND day_at < ? '
                    .'GROUP BY day_at ORDER BY day_at',
                [$cluster->id, $month[0], $to],
            ) as $row
        ) {
            $day = (int) $row->day_at;
            if ($day >= $month[1]) {
                [$month, $before] = [self::monthOf($day), BigDecimal::zero()];
            }
            $used = BigDecimal::of((string) max(0, (int) $row->bytes))->dividedBy(self::TEBIBYTE, 12, RoundingMode::HALF_EVEN);
            if ($day >= $from) {
                array_push($lines, ...$book->used(PriceKind::ScannedTebibyte, '', $used, $before, $day, $day, min($to, $day + 86_400)));
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

    /**
     * @return array{int, int}
     */
    private static function monthOf(int $at): array
    {
        $month = Days::month(gmdate('Y-m', $at));

        return [$month->from, $month->to];
    }
}
