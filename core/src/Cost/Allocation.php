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
     */
    private function __construct(public BigDecimal $total, public array $shared, public array $own)
    {
    }

    /**
     * @param  BigDecimal  $standing cost that is there whether anybody uses it
     * @param  BigDecimal  $byUse cost of use
     * @param  array<string, int>  $follows use by team that the standing cost follows
     * @param  array<string, int>  $used use by team that made the cost of use
     * @param  float  $busy share of the time in which something ran
     * @param  list<array{BigDecimal, array<string, int>}>  $more further costs of use, and the use that made each
     */
    public static function of(
        BigDecimal $standing,
        BigDecimal $byUse,
        array $follows,
        array $used,
        float $busy,
        IdleRule $idle,
        array $more = [],
    ): self {
        $standing = $standing->toScale(2, RoundingMode::HALF_UP);
        $total = $standing;
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
        $shared = Shares::split($busyCost, $follows);
        $rest = $standing->minus($busyCost);
        if (! $rest->isZero()) {
            $shared[self::IDLE] = $rest;
        }

        return new self($total, $shared, $own);
    }

    /**
     * @return array<string, BigDecimal> full cost by team, the largest first; what was idle under IDLE
     */
    public function full(): array
    {
        $full = $this->shared;
        foreach ($this->own as $team => $amount) {
            $full[$team] = isset($full[$team]) ? $full[$team]->plus($amount) : $amount;
        }
        uksort($full, static fn (string $a, string $b): int => [$full[$b]->compareTo($full[$a]), $a] <=> [0, $b]);

        return $full;
    }
}
