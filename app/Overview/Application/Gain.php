<?php

declare(strict_types=1);

namespace App\Overview\Application;

/**
 * What could be gained from one object, and what was; amounts a month on the one axis all of them have.
 */
final readonly class Gain
{
    /**
     * @param  float  $possible what its findings cost, without what was rehearsed
     * @param  float  $rehearsed what changes promise that were rehearsed and are not applied yet
     * @param  float  $proven what changes of the last weeks promise by their proof
     * @param  int|null  $brokenUs when the finding of a change was there again, or its proof did not hold
     * @param  array{possible: string, rehearsed: string, proven: string, broken: string}  $links address of each; empty for none
     */
    public function __construct(
        public string $name,
        public float $possible,
        public float $rehearsed,
        public float $proven,
        public ?int $brokenUs,
        public array $links,
    ) {
    }

    public function open(): float
    {
        return $this->possible + $this->rehearsed;
    }

    public function all(): float
    {
        return $this->open() + $this->proven;
    }
}
