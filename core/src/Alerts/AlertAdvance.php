<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

/**
 * What became of a condition in a span.
 */
final readonly class AlertAdvance
{
    /**
     * @param  array<array-key, AlertState>  $states at its end, by host, of those that are not quiet
     * @param  list<AlertRing>  $begun rings that began in it, without an end where they go on
     * @param  list<AlertRing>  $ended rings that ended in it, those that began in it among them
     */
    public function __construct(public array $states, public array $begun, public array $ended)
    {
    }
}
