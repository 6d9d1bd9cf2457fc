<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Estate\Pricing\DailyMoney;
use App\Estate\Pricing\PricedPart;
use Fulcrion\Core\Cost\CostLine;
use Fulcrion\Core\Cost\Price;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;

/**
 * Cost by day, and what prices in force make of it.
 */
final readonly class MoneyDays implements DailyMoney
{
    private const DAYS = 28;

    public function __construct(private DailyCosts $costs, private Prices $prices, private Calendar $calendar)
    {
    }

    public function currency(?Cluster $cluster): string
    {
        return $cluster === null ? (string) config('fulcrion.currency') : $this->prices->rule($cluster)->currency;
    }

    public function series(?Cluster $cluster, int $now): array
    {
        $series = $this->costs->series($cluster, $this->currency($cluster), $now);
        $all = $series[DailyCosts::ALL] ?? null;
        unset($series[DailyCosts::ALL]);

        return [$all, $series];
    }

    public function parts(?Cluster $cluster, int $now): array
    {
        $currency = $this->currency($cluster);
        $today = $this->calendar->day($now);
        $days = new Days($today - self::DAYS * Days::DAY, $today);
        $amounts = $prices = [];
        foreach ($cluster === null ? Cluster::query()->orderBy('name')->get() : [$cluster] as $one) {
            $book = $this->prices->book($one);
            if ($book->prices === [] || $book->currency !== $currency) {
                continue;
            }
            foreach ($book->inForce($now) as $price) {
                if ($price->kind !== PriceKind::Discount && $price->above->isZero() && ! $price->amount->isZero()) {
                    $prices["{$one->slug}|{$price->kind->value}|{$price->name}"] = [$one, $price];
                }
            }
            foreach (ClusterCost::of($one, $days, $this->prices, $now)->lines ?? [] as $line) {
                $key = self::key($one, $line);
                $amounts[$key] = ($amounts[$key] ?? 0.0) + $line->amount->toFloat();
            }
        }
        $all = array_sum($amounts);
        $parts = [];
        foreach ($prices as $key => [$one, $price]) {
            $parts[] = self::part($key, $one, $price, $currency, $all > 0 ? ($amounts[$key] ?? 0.0) / $all : 0.0, $cluster !== null);
        }
        usort($parts, static fn (PricedPart $a, PricedPart $b): int => $b->share <=> $a->share);

        return $parts;
    }

    private static function key(Cluster $cluster, CostLine $line): string
    {
        return "{$cluster->slug}|{$line->kind->value}|{$line->name}";
    }

    private static function part(string $key, Cluster $cluster, Price $price, string $currency, float $share, bool $isOfOne): PricedPart
    {
        $label = $price->kind->label().($price->name === '' ? '' : " ({$price->name})").($isOfOne ? '' : ", {$cluster->name}");

        return new PricedPart($key, $label, $price->amount->toFloat(), $currency, max(0.0, $share), $price->kind === PriceKind::BurstHour);
    }
}
