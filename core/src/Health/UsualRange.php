<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

/**
 * What a probe usually takes at an hour, as times its idle time.
 */
final readonly class UsualRange
{
    /**
     * @param  float  $low a tenth of the runs lie below
     * @param  float  $high a tenth of the runs lie above
     * @param  int  $runs it is known from
     * @param  bool  $isWeekly whether from the same hour of the week, or from the same hour of all days
     */
    public function __construct(public float $low, public float $middle, public float $high, public int $runs, public bool $isWeekly)
    {
    }
}
