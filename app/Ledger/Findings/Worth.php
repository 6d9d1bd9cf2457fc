<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

use App\Estate\Models\Cluster;
use App\Estate\Pricing\MoneyRates;
use App\Ledger\Models\Finding;
use App\Platform\Support\Money;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Rates;

/**
 * What findings and changes are worth in money a month, where the price book of their cluster tells. Modelled: at the mean full cost of
 * an hour in flight, of a worker's hour, or of a GiB that is kept.
 */
final readonly class Worth
{
    public function __construct(private MoneyRates $rates)
    {
    }

    public function ofFinding(Finding $finding): ?BigDecimal
    {
        return $finding->weight <= 0 ? null : self::of($this->rates->of($finding->cluster), $finding->weight());
    }

    /** "12.40 EUR a month"; empty where no price tells it. */
    public function shown(Finding $finding): string
    {
        return $this->said($finding->cluster, $this->ofFinding($finding));
    }

    /**
     * @param  float  $usPerWeek of statements in flight
     */
    public function ofSaved(Cluster $cluster, float $usPerWeek): ?BigDecimal
    {
        return $this->rates->of($cluster)?->ofInFlight($usPerWeek);
    }

    /**
     * @param  float  $usPerWeek of statements in flight
     */
    public function saved(Cluster $cluster, float $usPerWeek): string
    {
        return $this->said($cluster, $this->ofSaved($cluster, $usPerWeek));
    }

    public function currency(Cluster $cluster): string
    {
        return $this->rates->of($cluster)->currency ?? $this->rates->currency();
    }

    private static function of(?Rates $rates, Weight $weight): ?BigDecimal
    {
        return match ($weight->unit) {
            WeightUnit::QueryTime => $rates?->ofInFlight($weight->value),
            WeightUnit::WorkerTime => $rates?->ofWorkers($weight->value),
            WeightUnit::Bytes => $rates?->ofStored($weight->value),
            WeightUnit::None => null,
        };
    }

    private function said(Cluster $cluster, ?BigDecimal $amount): string
    {
        return $amount === null ? '' : Money::plain($amount->toFloat(), $this->currency($cluster)).' a month';
    }
}
