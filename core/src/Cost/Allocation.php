<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;

/**
 * What a cluster cost in a period, given to those that used it, to the last cent.
 */
final readonly class Allocation
{
    public const IDLE = "\0idle";

    /**
     * @param  array<string, BigDecimal>  $shared each one's part of the fixed cost
     * @param  array<string, BigDecimal>  $own what each has of the cost that its use made
     * @param  array<string, BigDecimal>  $reserved what each has of the cost of idle time, since it reserved it
     */
    private function __construct(public BigDecimal $total, public array $shared, public array $own, public array $reserved)
    {
    }

    /**
     * @param  BigDecimal  $standing cost that is there whether anybody uses it
     * @param  BigDecimal  $byUse cost of use
     * @param  array<string, int>  $follows use by team that the standing cost follows
     * @param  array<string, int>  $used use by team that made the cost of use
     * @param  float  $busy share of the time in which something ran
     * @param  list<array{BigDecimal, array<string, int>}>  $more further costs of use, and the use that made each
     * @param  BigDecimal|null  $kept cost that nobody's use makes and that is never idle, such as storage; it follows use as a whole
     * @param  array<string, int>  $unused millionths of the cluster that were reserved and not used, by who pays for them
     */
    public static function of(
        BigDecimal $standing,
        BigDecimal $byUse,
        array $follows,
        array $used,
        float $busy,
        IdleRule $idle,
        array $more = [],
        ?BigDecimal $kept = null,
        array $unused = [],
    ): self {
        $standing = $standing->toScale(2, RoundingMode::HALF_UP);
        $kept = ($kept ?? BigDecimal::zero())->toScale(2, RoundingMode::HALF_UP);
        $total = $standing->plus($kept);
        $own = [];
        foreach ([[$byUse, $used], ...$more] as [$amount, $of]) {
            $amount = $amount->toScale(2, RoundingMode::HALF_UP);
            $total = $total->plus($amount);
            $parts = Shares::split($amount, $of);
            // Use nobody is known for is nobody's.
            foreach ($parts === [] && ! $amount->isZero() ? [self::IDLE => $amount] : $parts as $key => $part) {
                $own[$key] = isset($own[$key]) ? $own[$key]->plus($part) : $part;
            }
        }
        $isUsed = array_sum($follows) > 0;
        $busyCost = match (true) {
            ! $isUsed => BigDecimal::zero()->toScale(2),
            $idle === IdleRule::InProportion => $standing,
            default => $standing->multipliedBy(sprintf('%.6F', max(0.0, min(1.0, $busy))))->toScale(2, RoundingMode::HALF_UP),
        };
        $shared = Shares::split($isUsed ? $busyCost->plus($kept) : $busyCost, $follows);
        $rest = $standing->minus($busyCost);
        $reserved = $idle === IdleRule::ToReservers ? Shares::split(self::reserved($standing, $rest, $unused), $unused) : [];
        $rest = $rest->minus(BigDecimal::sum(BigDecimal::zero(), ...array_values($reserved)))->plus($isUsed ? BigDecimal::zero() : $kept);
        if (! $rest->isZero()) {
            $shared[self::IDLE] = $rest;
        }

        return new self($total, $shared, $own, $reserved);
    }

    /**
     * What was reserved and not used, as far as it was idle: others may have used it.
     *
     * @param  array<string, int>  $unused
     */
    private static function reserved(BigDecimal $standing, BigDecimal $rest, array $unused): BigDecimal
    {
        $amount = $standing->multipliedBy(array_sum($unused))->dividedBy(Reserve::WHOLE, 2, RoundingMode::HALF_UP);

        return $amount->isGreaterThan($rest) ? $rest : $amount;
    }

    /**
     * @return array<string, BigDecimal> full cost by team, the largest first; what was idle under IDLE
     */
    public function full(): array
    {
        $full = $this->shared;
        foreach ([$this->own, $this->reserved] as $amounts) {
            foreach ($amounts as $team => $amount) {
                $full[$team] = isset($full[$team]) ? $full[$team]->plus($amount) : $amount;
            }
        }
        uksort($full, static fn (string $a, string $b): int => [$full[$b]->compareTo($full[$a]), $a] <=> [0, $b]);

        return $full;
    }
}
