<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

/**
 * Something that accrues with each day a cluster is in use, up to a cap, and is used up before anything costs.
 */
final readonly class Allowance
{
    /**
     * @param  float  $perDay what a day in use adds
     * @param  float  $cap the most that can gather
     * @param  float  $start what there is at first, at most the cap
     */
    public function __construct(public float $perDay, public float $cap, public float $start = 0.0)
    {
    }

    /**
     * Day by day: what a day adds is there from its beginning.
     *
     * @param  list<array{bool, float}>  $days whether the cluster was in use, and what was used
     * @return list<AllowanceDay>
     */
    public function over(array $days): array
    {
        $balance = min($this->cap, $this->start);
        $over = [];
        foreach ($days as [$isInUse, $used]) {
            $added = min($this->cap - $balance, $isInUse ? $this->perDay : 0.0);
            $lost = ($isInUse ? $this->perDay : 0.0) - $added;
            $there = $balance + $added;
            $taken = min($there, $used);
            $balance = $there - $taken;
            $over[] = new AllowanceDay($added, $lost, $used, $balance, $used - $taken);
        }

        return $over;
    }
}
