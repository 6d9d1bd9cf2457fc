<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Estate\Pricing\MoneyRates;
use App\Platform\Support\Clock;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Fulcrion\Core\Cost\Allocation;
use Fulcrion\Core\Cost\Price;
use Fulcrion\Core\Cost\PriceBook;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Cost\Rates;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\DB;

/**
 * Rates of the price book. An hour in flight costs what all of it together cost in the last four weeks: the fixed cost that follows it
 * and the cost of use, without what is idle.
 */
final class BookRates implements MoneyRates
{
    private const DAYS = 28;

    private const PATIENCE_SECONDS = 600;

    /** @var array<int, Rates|null> by cluster */
    private array $known = [];

    public function __construct(private readonly Prices $prices)
    {
    }

    public function of(Cluster $cluster): ?Rates
    {
        return $this->known[$cluster->id] ??= $this->compute($cluster);
    }

    public function currency(): string
    {
        return (string) config('fulcrion.currency');
    }

    private function compute(Cluster $cluster): ?Rates
    {
        $now = Clock::seconds();
        $prices = $this->prices->book($cluster)->inForce($now);
        if ($prices === []) {
            return null;
        }
        $first = static fn (PriceKind $kind): ?BigDecimal => array_values(array_filter(
            $prices,
            static fn (Price $one): bool => $one->kind === $kind && $one->above->isZero() && ! $one->amount->isZero(),
        ))[0]->amount ?? null;

        return new Rates(
            $this->prices->rule($cluster)->currency,
            $this->inFlightHour($cluster, $now),
            $first(PriceKind::WorkerHour),
            $first(PriceKind::NodeHour),
            $first(PriceKind::StorageMonth),
        );
    }

    private function inFlightHour(Cluster $cluster, int $now): ?BigDecimal
    {
        $key = "rates:{$cluster->id}:{$this->prices->version($cluster)}:".intdiv($now, self::PATIENCE_SECONDS);
        $known = Cache::get($key);
        if (! is_string($known)) {
            $known = (string) $this->measured($cluster, $now);
            Cache::put($key, $known, self::PATIENCE_SECONDS);
        }

        return $known === '' ? null : BigDecimal::of($known);
    }

    private function measured(Cluster $cluster, int $now): ?BigDecimal
    {
        $today = app(Calendar::class)->day($now);
        $first = DB::table('usage_origin_days')->where('cluster_id', $cluster->id)->min('day_at');
        // What is not over would be paid for and not yet used; where nothing else is known, it is better than nothing.
        $days = $first === null || (int) $first >= $today ? new Days($today, $today + Days::DAY)
            : new Days(max((int) $first, $today - self::DAYS * Days::DAY), $today);
        $us = (string) DB::table('usage_origin_days')
            ->where('cluster_id', $cluster->id)
            ->where('day_at', '>=', $days->from)
            ->where('day_at', '<', $days->to)
            ->sum(UsageMeasure::InFlight->value);
        $cost = ClusterCost::of($cluster, $days, $this->prices, $now);
        if ($cost === null || (float) $us <= 0) {
            return null;
        }
        $given = BigDecimal::sum(
            BigDecimal::zero(),
            ...array_values(array_diff_key($cost->allocation->full(), [Allocation::IDLE => true])),
        );

        return $given->isZero() ? null
            : $given->multipliedBy(3_600_000_000)->dividedBy(BigDecimal::of($us), PriceBook::SCALE, RoundingMode::HALF_UP);
    }
}
