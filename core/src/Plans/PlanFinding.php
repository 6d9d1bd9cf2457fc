<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * Something wrong with a plan, why it is thought so, and what to do.
 */
final readonly class PlanFinding
{
    public function __construct(
        /** Short name of the rule, for filters and tests. */
        public string $rule,
        /** One sentence. */
        public string $problem,
        /** The figures it rests on. */
        public string $evidence,
        public string $remedy,
        public PlanStep $step,
        /** A predicate or statement to use instead; null where there is none to paste. */
        public ?string $replacement = null,
        /** Time of the plan that is at stake, by its own clock; null when not known. */
        public ?int $atStakeUs = null,
    ) {
    }
}
