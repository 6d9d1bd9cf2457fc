<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics\Wire;

use Fulcrion\Core\Metrics\BusyProcess;

/**
 * Readings of a host as its agent sent them.
 */
final readonly class SentReadings
{
    /**
     * @param  int|null  $sentMs what the agent's clock showed when it sent them
     * @param  array<int, list<BusyProcess>>  $processes the busiest, by milliseconds
     * @param  list<array<mixed>>  $baselines what its hardware can do, as the tools wrote it
     * @param  array<int, array<string, string|null>>  $settings how the host is set, as its kernel has it, by milliseconds
     */
    public function __construct(
        public Reception $reception,
        public ?int $sentMs,
        public string $host = '',
        public array $processes = [],
        public array $settings = [],
        public array $baselines = [],
    ) {
    }
}
