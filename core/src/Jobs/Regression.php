<?php

declare(strict_types=1);

namespace Fulcrion\Core\Jobs;

/**
 * Since when a recurring job takes more for the same input: the last run after which none was as quick as the middle of
 * those before.
 */
final readonly class Regression
{
    private const FACTOR = 1.2;

    private const BEFORE = 3;

    private function __construct(public int $sinceUs, public float $factor)
    {
    }

    /**
     * @param  list<array{int, int, int}>  $runs moment, worker time and bytes of input, oldest first
     */
    public static function of(array $runs): ?self
    {
        $rates = array_map(static fn (array $run): float => $run[1] / max(1, $run[2]), $runs);
        for ($since = count($rates) - 1; $since >= self::BEFORE; $since--) {
            $before = Spread::median(array_slice($rates, 0, $since));
            if ($before <= 0 || $rates[$since] < self::FACTOR * $before) {
                return null;
            }
            if ($rates[$since - 1] < self::FACTOR * $before) {
                return new self($runs[$since][0], Spread::median(array_slice($rates, $since)) / $before);
            }
        }

        return null;
    }
}
