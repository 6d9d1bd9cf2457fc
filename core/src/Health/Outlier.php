<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

/**
 * A host that differs from its neighbours under the same work.
 */
final readonly class Outlier
{
    /**
     * @param  float  $factor how many times as much as its neighbours it takes for the same
     * @param  float  $score its difference in units of how far its neighbours differ from each other
     * @param  int|null  $since place of the first interval in which it does; null where it has since the first one
     */
    public function __construct(public string $host, public float $factor, public float $score, public ?int $since)
    {
    }
}
