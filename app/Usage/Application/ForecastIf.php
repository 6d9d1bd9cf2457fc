<?php

declare(strict_types=1);

namespace App\Usage\Application;

use Fulcrion\Core\Forecast\PeriodForecast;

/**
 * The rest of a month with something changed.
 */
final readonly class ForecastIf
{
    /**
     * @param  list<IfPart>  $parts
     * @param  array<string, string>  $asked what was asked for, as the form says it
     */
    public function __construct(public array $parts, public array $asked, public ?string $complaint)
    {
    }

    public function isAsked(): bool
    {
        return $this->parts !== [];
    }

    /** What the whole month would have. */
    public function expected(PeriodForecast $forecast): float
    {
        $left = $forecast->forecast->total($forecast->ahead);
        $more = 0.0;
        foreach ($this->parts as $part) {
            $left *= $part->factor;
            $more += $part->perDay * $forecast->ahead;
        }

        return max($forecast->used(), $forecast->used() + $left + $more);
    }

    /** In words, after "if". */
    public function said(): string
    {
        return implode(' and ', array_map(static fn (IfPart $part): string => $part->said, $this->parts));
    }
}
