<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics\Wire;

/**
 * Readings of a host as its agent sent them.
 */
final readonly class SentReadings
{
    /**
     * @param  int|null  $sentMs what the agent's clock showed when it sent them
     */
    public function __construct(public Reception $reception, public ?int $sentMs)
    {
    }
}
