<?php

declare(strict_types=1);

namespace App\Platform\Parts;

/**
 * How a part of the application is.
 */
final readonly class OwnPart
{
    /**
     * @param  string  $mark calm, watch, act, or no data where nobody knows
     * @param  string  $said for people who are signed in
     * @param  array<string, float>  $measures by name, with its unit at the end
     */
    public function __construct(public string $mark, public string $said, public array $measures = [])
    {
    }

    /**
     * What should be small: calm below the first limit, to be watched from there on, to be acted on from the second.
     *
     * @param  array<string, float>  $measures
     */
    public static function small(float $value, float $watch, float $act, string $said, array $measures = []): self
    {
        return new self($value >= $act ? 'act' : ($value >= $watch ? 'watch' : 'calm'), $said, $measures);
    }
}
