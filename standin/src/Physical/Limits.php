<?php

declare(strict_types=1);

namespace Fulcrion\StandIn\Physical;

use Closure;

/**
 * Where a run stops.
 */
final readonly class Limits
{
    /**
     * @param  (Closure(): bool)|null  $cancelled asked now and then
     * @param  Closure(): int  $clockNs any clock that runs on
     */
    public function __construct(public int $seconds, public int $rows, public ?Closure $cancelled, public Closure $clockNs)
    {
    }
}
