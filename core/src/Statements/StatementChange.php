<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements;

/**
 * What one statement contributed to the change of load between two windows. Loads are mean executions in flight.
 */
final readonly class StatementChange
{
    public function __construct(
        public int|string $statement,
        public int $executionsBefore,
        public int $executionsAfter,
        public float $meanUsBefore,
        public float $meanUsAfter,
        public float $loadBefore,
        public float $loadAfter,
        /** Part of the change that comes from running more or less often. */
        public float $byCount,
        /** Part of the change that comes from running slower or faster. */
        public float $byLatency,
    ) {
    }

    public function change(): float
    {
        return $this->loadAfter - $this->loadBefore;
    }

    /** Part that comes from runs that reach over a border of a window. */
    public function carriedOver(): float
    {
        return $this->change() - $this->byCount - $this->byLatency;
    }

    public function movement(): string
    {
        return match (true) {
            $this->executionsBefore === 0 && $this->loadBefore <= 0.0 => 'came',
            $this->executionsAfter === 0 && $this->loadAfter <= 0.0 => 'went',
            $this->change() > 0 => 'rose',
            $this->change() < 0 => 'fell',
            default => 'same',
        };
    }
}
