<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Closure;
use Fulcrion\Core\Limits\RunMeter;

/**
 * Where a run stops.
 */
final readonly class Limits
{
    /**
     * @param  (Closure(): bool)|null  $cancelled asked now and then
     * @param  Closure(): int  $clockNs any clock that runs on
     * @param  int  $memoryBytes of this process
     * @param  RunMeter|null  $meter learns what is read and how long it takes on the modelled cluster, and ends the run
     */
    public function __construct(
        public int $seconds,
        public int $rows,
        public ?Closure $cancelled,
        public Closure $clockNs,
        public int $memoryBytes = PHP_INT_MAX,
        public ?RunMeter $meter = null,
    ) {
    }
}
