<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

interface PlanRule
{
    /**
     * @return list<PlanFinding>
     */
    public function check(Plan $plan): array;
}
