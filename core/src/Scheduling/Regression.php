<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

use Fulcrion\Core\Statistics\Spread;

/**
 * Since when a recurring job takes more for the same input: the first run from which on none was nearly as quick as the
 * middle of those before.
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
        for ($since = self::BEFORE; $since < count($rates); $since++) {
            $before = Spread::median(array_slice($rates, 0, $since));
            $after = array_slice($rates, $since);
            if ($before > 0 && min([INF, ...$after]) >= self::FACTOR * $before) {
                return new self($runs[$since][0], Spread::median($after) / $before);
            }
        }

        return null;
    }
}
