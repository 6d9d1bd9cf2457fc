<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * What would happen on some number of workers. All times are from the start of the job.
 */
final readonly class Schedule
{
    /**
     * @param  list<int>  $starts by task, from when its worker is taken up; empty where they were not asked for
     * @param  list<int>  $durationsUs by task
     */
    public function __construct(public int $makespanUs, public int $mostUsed, public array $starts, public array $durationsUs)
    {
    }

    /** How many workers were at work over time. */
    public function used(): Profile
    {
        return Profile::of($this->starts, $this->durationsUs);
    }
}
