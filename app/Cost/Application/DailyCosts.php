<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Forecast\DailySeries;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\DB;

/**
 * What clusters cost day by day, and each team of it, as series up to yesterday. Days that are closed are computed once.
 */
final class DailyCosts
{
    /** All of it, idle time as well. */
    public const ALL = "\0all";

    /** Days further back say little of what comes. */
    private const MOST_DAYS = 120;

    private const KEPT_SECONDS = 40 * 86_400;

    /** @var array<string, array<string, DailySeries>> */
    private array $known = [];

    public function __construct(private readonly Prices $prices, private readonly Calendar $calendar)
    {
    }

    /**
     * @param  Cluster|null  $cluster null for all whose prices are of the currency
     * @return array<string, DailySeries> by team, and ALL; empty where no day is known
     */
    public function series(?Cluster $cluster, string $currency, int $now): array
    {
        return $this->known[($cluster->slug ?? '')."|{$currency}|{$now}"] ??= $this->read($cluster, $currency, $now);
    }

    /**
     * @return array<string, DailySeries>
     */
    private function read(?Cluster $cluster, string $currency, int $now): array
    {
        $today = $this->calendar->day($now);
        $clusters = [];
        $first = $today;
        foreach ($cluster === null ? Cluster::query()->get() : [$cluster] as $one) {
            $book = $this->prices->book($one);
            if ($book->prices !== [] && $book->currency === $currency) {
                $used = DB::table('usage_days')->where('cluster_id', $one->id)->min('day_at');
                $priced = min(array_map(static fn ($price): int => $price->from, $book->prices));
                $clusters[] = $one;
                $first = $used === null ? $first : min($first, max((int) $used, $this->calendar->day($priced)));
            }
        }
        $first = max($first, $today - self::MOST_DAYS * Days::DAY);
        if ($first >= $today) {
            return [];
        }
        $days = new Days($first, $today);
        $sums = [];
        foreach ($clusters as $one) {
            foreach ($this->byDay($one, $days, $now) as $place => $amounts) {
                foreach ($amounts as $team => $amount) {
                    $sums[$team] ??= array_fill(0, $days->count(), 0.0);
                    $sums[$team][$place] += $amount;
                }
            }
        }

        return array_map(static fn (array $values): DailySeries => new DailySeries(
            $first,
            array_values(array_map(static fn (float $one): float => max(0.0, $one), $values)),
        ), $sums);
    }

    /**
     * @return array<int, array<string, float>> amount by team, by place of the day
     */
    private function byDay(Cluster $cluster, Days $days, int $now): array
    {
        $version = $this->prices->version($cluster);
        $closed = DB::table('usage_days')
            ->where('cluster_id', $cluster->id)
            ->where('day_at', '>=', $days->from)
            ->get(['day_at', 'closed_at', 'corrected_at'])
            ->keyBy('day_at');
        $all = [];
        foreach ($days->starts() as $place => $day) {
            $stamp = $closed[$day]->corrected_at ?? $closed[$day]->closed_at ?? null;
            $compute = fn (): array => $this->day($cluster, new Days($day, $day + Days::DAY), $now);
            // A day without any use is as closed as those around it.
            $all[$place] = $stamp === null && isset($closed[$day]) ? $compute()
                : Cache::remember("cost-day:{$cluster->id}:{$day}:{$version}:{$stamp}", self::KEPT_SECONDS, $compute);
        }

        return $all;
    }

    /**
     * @return array<string, float>
     */
    private function day(Cluster $cluster, Days $day, int $now): array
    {
        $cost = ClusterCost::of($cluster, $day, $this->prices, $now);

        return $cost === null ? [] : [
            self::ALL => $cost->total()->toFloat(),
            ...array_map(static fn (BigDecimal $one): float => $one->toFloat(), $cost->allocation->full()),
        ];
    }
}
