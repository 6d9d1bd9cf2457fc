<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

/**
 * A part of the week in which a probe takes long, week after week.
 */
final readonly class Struggle
{
    /**
     * @param  string  $when as "Mondays 06:30 to 09:00"
     * @param  float  $ratio times as long as when idle, in the middle
     * @param  int  $weeks in which it was so, of those that are known
     * @param  int  $lastFrom Unix second it began the last time
     */
    public function __construct(
        public string $when,
        public float $ratio,
        public int $runs,
        public int $weeks,
        public int $known,
        public int $lastFrom,
        public int $lastTo,
    ) {
    }
}
