<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost\Bill;

use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\CostLine;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Cost\Shares;

/**
 * A bill beside what we computed for the same days. Every amount of either side is in one match and in one only, so that the matches add
 * up to both sides exactly.
 */
final readonly class Reconciliation
{
    /** Before the name of a resource that is no cluster. */
    public const UNKNOWN = "\0";

    private const DAY = 86_400;

    /** Digits behind the point parts of a line are worked with. */
    private const SCALE = 12;

    /** A day's amounts that differ by less agree: a line of a bill is often rounded. */
    private const TOLERANCE = '0.01';

    /** Quantities nearer than a thousandth are the same. */
    private const SAME_QUANTITY = 0.001;

    /**
     * @param  list<BillMatch>  $matches the largest first
     */
    private function __construct(public array $matches)
    {
    }

    /**
     * @param  list<BillLine>  $lines of one currency, in that of the computed costs
     * @param  array<string, list<CostLine>>  $computed by cluster; none longer than the day it lies in
     * @param  array<string, string>  $resources resource of the bill => cluster
     * @param  array<string, array<int, true>>  $ran cluster => days on which something ran
     * @param  array<string, array{int, int}>  $known cluster => first and last day whose use is known
     */
    public static function of(array $lines, array $computed, array $resources, array $ran = [], array $known = []): self
    {
        $cells = [];
        foreach ($lines as $line) {
            $cluster = $resources[$line->resource] ?? self::UNKNOWN.$line->resource;
            $seconds = self::seconds($line->from, $line->to);
            [$amounts, $quantities] = [self::parts($line->amount, $seconds), self::parts($line->quantity, $seconds)];
            foreach ($amounts as $day => $amount) {
                // Taxes and credits meet nothing.
                $key = "{$cluster}|".($line->kind === null ? $line->category->value : $line->kind->value)."|{$day}";
                $cells[$key] ??= new BillCell($cluster, $line->kind, $line->category, $day);
                $cells[$key]->bill($amount ?? BigDecimal::zero(), $quantities[$day] ?? null);
            }
        }
        foreach ($computed as $cluster => $costs) {
            foreach ($costs as $cost) {
                // What costs nothing is nothing a bill has to have.
                if ($cost->amount->isZero()) {
                    continue;
                }
                $day = $cost->from - $cost->from % self::DAY;
                $key = "{$cluster}|{$cost->kind->value}|{$day}";
                $cells[$key] ??= new BillCell($cluster, $cost->kind, null, $day);
                $cells[$key]->compute($cost->amount, $cost->kind === PriceKind::Discount ? BigDecimal::zero() : $cost->quantity);
            }
        }
        $groups = [];
        foreach ($cells as $cell) {
            $isKnown = isset($known[$cell->cluster]) && $cell->day >= $known[$cell->cluster][0] && $cell->day <= $known[$cell->cluster][1];
            $isUnused = $isKnown && ! isset($ran[$cell->cluster][$cell->day]);
            $agreement = $cell->agreement(BigDecimal::of(self::TOLERANCE), self::SAME_QUANTITY);
            // Only where there is no other side does it matter whether something ran.
            $isUnused = $isUnused && $agreement === Agreement::OnlyBilled;
            $groups[implode('|', [
                $cell->cluster, $cell->kind?->value, $cell->kind === null ? $cell->category?->value : '',
                $agreement->value, (int) $isUnused,
                // What is too much on some days does not make good what is too little on others.
                $agreement === Agreement::Agrees ? '' : $cell->billed->compareTo($cell->computed),
                $agreement === Agreement::OtherQuantity && $cell->billedQuantity === null ? 'uncounted' : '',
            ])][] = [$cell, $agreement, $isUnused];
        }
        $matches = array_map(self::join(...), array_values($groups));
        usort($matches, static fn (BillMatch $a, BillMatch $b): int => [
            $b->billed->abs()->plus($b->computed->abs())->compareTo($a->billed->abs()->plus($a->computed->abs())), $a->cluster,
            $a->agreement->value, $a->kind->value ?? '',
        ] <=> [0, $b->cluster, $b->agreement->value, $b->kind->value ?? '']);

        return new self($matches);
    }

    public function billed(): BigDecimal
    {
        return BigDecimal::sum(BigDecimal::zero(), ...array_map(static fn (BillMatch $one): BigDecimal => $one->billed, $this->matches));
    }

    public function computed(): BigDecimal
    {
        return BigDecimal::sum(BigDecimal::zero(), ...array_map(static fn (BillMatch $one): BigDecimal => $one->computed, $this->matches));
    }

    /** What is billed beyond what was computed; below zero the other way round. */
    public function difference(): BigDecimal
    {
        return $this->billed()->minus($this->computed());
    }

    /**
     * @return list<BillMatch> without those that agree, the largest difference first
     */
    public function differences(): array
    {
        $differences = array_values(array_filter(
            $this->matches,
            static fn (BillMatch $one): bool => $one->agreement !== Agreement::Agrees,
        ));
        usort(
            $differences,
            static fn (BillMatch $a, BillMatch $b): int => $b->difference()->abs()->compareTo($a->difference()->abs()),
        );

        return $differences;
    }

    /**
     * @param  non-empty-list<array{BillCell, Agreement, bool}>  $group
     */
    private static function join(array $group): BillMatch
    {
        [$first, $agreement, $isUnused] = $group[0];
        $billed = $computed = $billedQuantity = $computedQuantity = BigDecimal::zero();
        $days = [];
        foreach ($group as [$cell]) {
            $billed = $billed->plus($cell->billed);
            $computed = $computed->plus($cell->computed);
            $billedQuantity = $cell->billedQuantity === null ? null : $billedQuantity?->plus($cell->billedQuantity);
            $computedQuantity = $computedQuantity->plus($cell->computedQuantity);
            $days[] = $cell->day;
        }
        sort($days);

        return new BillMatch(
            $first->cluster,
            $first->kind,
            $first->category,
            $agreement,
            $days,
            $billed,
            $computed,
            $billedQuantity,
            $computedQuantity,
            $isUnused,
        );
    }

    /**
     * @return non-empty-array<int, int> first moment of a day => seconds in it
     */
    private static function seconds(int $from, int $to): array
    {
        $day = $from - $from % self::DAY;
        $seconds = [$day => min($to, $day + self::DAY) - $from];
        for ($day += self::DAY; $day < $to; $day += self::DAY) {
            $seconds[$day] = min($to, $day + self::DAY) - $day;
        }

        return $seconds;
    }

    /**
     * What is of more than one day is shared among its days by their seconds; the parts add up to it.
     *
     * @param  non-empty-array<int, int>  $seconds by day
     * @return array<int, BigDecimal|null> by day
     */
    private static function parts(?BigDecimal $whole, array $seconds): array
    {
        if ($whole === null) {
            return array_fill_keys(array_keys($seconds), null);
        }

        return count($seconds) === 1 ? [array_key_first($seconds) => $whole]
            : Shares::split($whole, $seconds, max(self::SCALE, $whole->getScale()));
    }
}
