<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

/**
 * What would have been done, and when.
 */
final readonly class TrialAct
{
    /**
     * @param  int  $day the first of its period
     * @param  int  $at in Unix seconds
     */
    public function __construct(public int $day, public Threshold $threshold, public int $at, public int $used)
    {
    }
}
