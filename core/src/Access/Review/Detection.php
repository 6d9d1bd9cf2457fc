<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Review;

/**
 * What a column seems to hold.
 */
final readonly class Detection
{
    /**
     * @param  float  $rate share of the sampled values that look so
     * @param  list<string>  $examples with their characters replaced
     */
    public function __construct(
        public string $kind,
        public string $key,
        public float $rate,
        public int $sampled,
        public bool $byName,
        public array $examples,
    ) {
    }

    public function evidence(): string
    {
        return sprintf('%d%% of %d sampled values look like %s', (int) round($this->rate * 100), $this->sampled, $this->kind).
            ($this->byName ? ', and the name says so' : '').
            ($this->examples === [] ? '' : '; such as '.implode(', ', $this->examples));
    }
}
