<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

/**
 * A time in which a condition rang.
 */
final readonly class AlertRing
{
    /**
     * @param  string  $host empty where a share of them rang together
     * @param  int  $from second in which the threshold was reached
     * @param  int  $rangAt second in which that had lasted long enough
     * @param  int|null  $to second since which it was calm; null where it goes on
     * @param  float  $worst value in it
     */
    public function __construct(public string $host, public int $from, public int $rangAt, public ?int $to, public float $worst)
    {
    }

    public function touches(int $from, int $to): bool
    {
        return $this->from < $to && ($this->to ?? PHP_INT_MAX) > $from;
    }
}
