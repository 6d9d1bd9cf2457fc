<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

use Fulcrion\Core\Plans\Rules\AvoidableRepartition;
use Fulcrion\Core\Plans\Rules\EstimateOff;
use Fulcrion\Core\Plans\Rules\ExplodingJoin;
use Fulcrion\Core\Plans\Rules\FilterOnlyJoin;
use Fulcrion\Core\Plans\Rules\FullRead;
use Fulcrion\Core\Plans\Rules\LargeBroadcast;
use Fulcrion\Core\Plans\Rules\PoorStatistics;
use Fulcrion\Core\Plans\Rules\RepeatedSubquery;
use Fulcrion\Core\Plans\Rules\SkewedNode;
use Fulcrion\Core\Plans\Rules\SortForFew;
use Fulcrion\Core\Plans\Rules\Spill;
use Fulcrion\Core\Plans\Rules\WrappedColumn;

/**
 * All rules on one plan.
 */
final readonly class PlanRules
{
    /**
     * @return list<PlanFinding> what costs most first
     */
    public function check(Plan $plan): array
    {
        $rules = [
            new WrappedColumn(),
            new FullRead(),
            new PoorStatistics(),
            new EstimateOff(),
            new SkewedNode(),
            new ExplodingJoin(),
            new FilterOnlyJoin(),
            new LargeBroadcast(),
            new AvoidableRepartition(),
            new Spill(),
            new SortForFew(),
            new RepeatedSubquery(),
        ];
        $findings = array_merge(...array_map(static fn (PlanRule $rule): array => $rule->check($plan), $rules));
        usort($findings, static fn (PlanFinding $a, PlanFinding $b): int => ($b->atStakeUs ?? 0) <=> ($a->atStakeUs ?? 0));

        return $findings;
    }
}
