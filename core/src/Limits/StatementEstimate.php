<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

/**
 * What a statement will read at most, and how long reading it takes, by its plan before it is run.
 */
final readonly class StatementEstimate
{
    public function __construct(public int $bytes, public int $us)
    {
    }

    /** Null where it says nothing of a measure. */
    public function of(LimitMeasure $measure): ?int
    {
        return match ($measure) {
            LimitMeasure::Bytes => $this->bytes,
            LimitMeasure::Time => $this->us,
            LimitMeasure::Executions => 1,
            LimitMeasure::Cost => null,
        };
    }
}
