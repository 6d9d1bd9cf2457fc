<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

/**
 * One run of a probe.
 */
final readonly class ProbeRun
{
    /**
     * @param  int  $at Unix second it was begun
     * @param  int|null  $tookUs with waiting; null where it failed
     * @param  int  $waitedUs in a queue, part of what it took
     */
    public function __construct(public int $at, public ?int $tookUs, public int $waitedUs = 0)
    {
    }
}
