<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics\Wire;

use Fulcrion\Core\Metrics\Metric;

/**
 * One value that was received.
 */
final readonly class Received
{
    /**
     * @param  string  $host it is of; empty where the sender does not say
     * @param  bool  $isDelta whether it is what was added since the last time, and not the whole
     */
    public function __construct(public string $host, public int $atMs, public Metric $metric, public bool $isDelta = false)
    {
    }
}
