<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics;

/**
 * One value as it was read: what it is of, by the names of OpenTelemetry's semantic conventions where these have one.
 */
final readonly class Metric
{
    /**
     * @param  string  $unit by UCUM, as By, s, 1
     * @param  array<string, string>  $labels
     * @param  bool  $isCounter whether it only grows, until what counts it is started again
     */
    public function __construct(
        public string $name,
        public string $unit,
        public float $value,
        public array $labels = [],
        public bool $isCounter = false,
    ) {
    }

    /** What tells its series from others of a host. */
    public function key(): string
    {
        $labels = $this->labels;
        ksort($labels);

        return $this->name.($labels === [] ? '' : ' '.json_encode($labels, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES
            | JSON_INVALID_UTF8_SUBSTITUTE | JSON_THROW_ON_ERROR));
    }
}
