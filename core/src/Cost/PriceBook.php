<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;

/**
 * The prices of a cluster, in one currency, each from its moment on. Nothing is rounded here: the sums of a period are, once.
 */
final readonly class PriceBook
{
    /** Digits behind the point quotients are worked with. */
    public const SCALE = 12;

    private const HOUR = 3_600;

    /**
     * @param  list<Price>  $prices
     */
    public function __construct(public string $currency, public array $prices)
    {
    }

    /**
     * What is paid for as long as it is there: nodes by the second, fees by the part of the month they were in force.
     *
     * @param  int  $from Unix seconds
     * @param  int  $to end
     * @param  callable(int): array{int, int}  $monthOf start and end of the month a moment lies in
     * @return list<CostLine> oldest first; discounts as lines below zero after what they are on
     */
    public function standing(int $from, int $to, callable $monthOf): array
    {
        $lines = [];
        foreach ($this->segments($from, $to, $monthOf) as [$begin, $end]) {
            $sum = BigDecimal::zero();
            foreach ($this->inForce($begin) as $price) {
                if (! $price->kind->isStanding()) {
                    continue;
                }
                [$first, $last] = $monthOf($begin);
                $unit = $price->kind === PriceKind::MonthlyFee ? $last - $first : self::HOUR;
                $quantity = $price->quantity->multipliedBy($end - $begin)->dividedBy($unit, self::SCALE, RoundingMode::HALF_EVEN);
                // Divided last, so that a part of a month is as exact as can be.
                $amount = $price->amount->multipliedBy($price->quantity)->multipliedBy($end - $begin)
                    ->dividedBy($unit, self::SCALE, RoundingMode::HALF_EVEN);
                $lines[] = new CostLine($price->kind, $price->name, $quantity, $price->amount, $amount, $begin, $end);
                $sum = $sum->plus($amount);
            }
            array_push($lines, ...$this->discounts($sum, $begin, $end));
        }

        return $lines;
    }

    /**
     * What is paid for by use, by the tiers of a month: the part of the month's use above each bound costs what that tier says.
     *
     * @param  BigDecimal  $used TiB, GiB or hours
     * @param  BigDecimal  $before used of it earlier in the same month, which took the tiers below
     * @param  int  $at the moment whose prices hold, in Unix seconds
     * @return list<CostLine>
     */
    public function used(PriceKind $kind, string $name, BigDecimal $used, BigDecimal $before, int $at, int $from, int $to): array
    {
        $lines = [];
        $sum = BigDecimal::zero();
        foreach ($this->tiers($kind, $name, $used, $before, $at) as [$price, $quantity]) {
            $amount = $price->amount->multipliedBy($quantity);
            $lines[] = new CostLine($kind, $name, $quantity, $price->amount, $amount, $from, $to);
            $sum = $sum->plus($amount);
        }

        return [...$lines, ...$this->discounts($sum, $at, $to)];
    }

    /**
     * What is paid for by how much there is of it, for the part of the month it was there, by the tiers of what is there at once.
     *
     * @param  BigDecimal  $level GiB
     * @param  int  $from Unix seconds; the prices of that moment hold
     * @param  callable(int): array{int, int}  $monthOf start and end of the month a moment lies in
     * @return list<CostLine> quantities in GiB-months
     */
    public function kept(PriceKind $kind, string $name, BigDecimal $level, int $from, int $to, callable $monthOf): array
    {
        [$first, $last] = $monthOf($from);
        $part = static fn (BigDecimal $whole): BigDecimal => $whole->multipliedBy($to - $from)
            ->dividedBy($last - $first, self::SCALE, RoundingMode::HALF_EVEN);
        $lines = [];
        $sum = BigDecimal::zero();
        foreach ($this->tiers($kind, $name, $level, BigDecimal::zero(), $from) as [$price, $quantity]) {
            $amount = $part($price->amount->multipliedBy($quantity));
            $lines[] = new CostLine($kind, $name, $part($quantity), $price->amount, $amount, $from, $to);
            $sum = $sum->plus($amount);
        }

        return [...$lines, ...$this->discounts($sum, $from, $to)];
    }

    /**
     * @return list<array{Price, BigDecimal}> price of each tier, and what falls into it
     */
    private function tiers(PriceKind $kind, string $name, BigDecimal $used, BigDecimal $before, int $at): array
    {
        $prices = array_values(array_filter(
            $this->inForce($at),
            static fn (Price $price): bool => $price->kind === $kind && $price->name === $name,
        ));
        usort($prices, static fn (Price $a, Price $b): int => $a->above->compareTo($b->above));
        $tiers = [];
        foreach ($prices as $i => $price) {
            $end = $before->plus($used);
            $end = isset($prices[$i + 1]) && $prices[$i + 1]->above->isLessThan($end) ? $prices[$i + 1]->above : $end;
            $quantity = $end->minus($before->isGreaterThan($price->above) ? $before : $price->above);
            if ($quantity->isGreaterThan(0)) {
                $tiers[] = [$price, $quantity];
            }
        }

        return $tiers;
    }

    /**
     * @return list<Price> of each thing the latest that holds at a moment
     */
    public function inForce(int $at): array
    {
        $latest = [];
        foreach ($this->prices as $price) {
            $known = $latest[$price->key()] ?? null;
            if ($price->from <= $at && ($known === null || $known->from <= $price->from)) {
                $latest[$price->key()] = $price;
            }
        }

        return array_values($latest);
    }

    /**
     * @return list<CostLine> below zero
     */
    private function discounts(BigDecimal $sum, int $from, int $to): array
    {
        $lines = [];
        foreach ($sum->isZero() ? [] : $this->inForce($from) as $price) {
            if ($price->kind === PriceKind::Discount) {
                // A hundredth of it is exact with two digits more.
                $scale = $sum->getScale() + $price->amount->getScale() + 2;
                $amount = $sum->multipliedBy($price->amount)->dividedBy(-100, $scale, RoundingMode::UNNECESSARY);
                $lines[] = new CostLine($price->kind, $price->name, $price->amount, $price->amount, $amount, $from, $to);
            }
        }

        return $lines;
    }

    /**
     * Spans in which no price changes and no month ends.
     *
     * @param  callable(int): array{int, int}  $monthOf
     * @return list<array{int, int}>
     */
    private function segments(int $from, int $to, callable $monthOf): array
    {
        $borders = [$from => true, $to => true];
        foreach ($this->prices as $price) {
            if ($price->from > $from && $price->from < $to) {
                $borders[$price->from] = true;
            }
        }
        for ($at = $from; $at < $to; $at = $end) {
            $end = $monthOf($at)[1];
            if ($end < $to) {
                $borders[$end] = true;
            }
        }
        ksort($borders);
        $borders = array_keys($borders);
        $segments = [];
        for ($i = 1; $i < count($borders); $i++) {
            $segments[] = [$borders[$i - 1], $borders[$i]];
        }

        return $segments;
    }
}
