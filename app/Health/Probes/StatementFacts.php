<?php

declare(strict_types=1);

namespace App\Health\Probes;

use Fulcrion\Core\Statistics\Spread;

/**
 * What runs of a statement were like, on the mean of each.
 */
final readonly class StatementFacts
{
    public function __construct(
        public int $executions,
        public float $tookUs,
        public float $waitedUs,
        public float $lockedUs,
        public float $bytesRead,
        public float $rowsRead,
    ) {
    }

    /**
     * What is in the middle of some, each measure by itself.
     *
     * @param  non-empty-list<self>  $all
     */
    public static function middle(array $all): self
    {
        return new self(
            array_sum(array_map(static fn (self $one): int => $one->executions, $all)),
            Spread::median(array_map(static fn (self $one): float => $one->tookUs, $all)),
            Spread::median(array_map(static fn (self $one): float => $one->waitedUs, $all)),
            Spread::median(array_map(static fn (self $one): float => $one->lockedUs, $all)),
            Spread::median(array_map(static fn (self $one): float => $one->bytesRead, $all)),
            Spread::median(array_map(static fn (self $one): float => $one->rowsRead, $all)),
        );
    }

    public function ranUs(): float
    {
        return max(0.0, $this->tookUs - $this->waitedUs);
    }
}
