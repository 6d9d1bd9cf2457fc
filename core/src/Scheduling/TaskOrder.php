<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * Which of the tasks that are ready a free worker takes.
 */
enum TaskOrder: string
{
    case Recorded = 'recorded';
    case FirstReady = 'first-ready';
    case LongestPath = 'longest-path';

    public function words(): string
    {
        return match ($this) {
            self::Recorded => 'as recorded',
            self::FirstReady => 'first in, first out',
            self::LongestPath => 'longest path first',
        };
    }
}
