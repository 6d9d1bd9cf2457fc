<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

use Fulcrion\Core\Statistics\Spread;

/**
 * Days until a limit is reached, by what was added in a week: the middle of what each of the last days had more than the same day of the
 * week before. What comes in steps every week counts as it is, and one step or clean-up alone does not carry far.
 */
final readonly class DaysLeft
{
    private const DAYS = 14;

    private const WEEK = 7;

    private const LEAST_DAYS = 4;

    /** What does not grow is never full; further away than this nobody looks. */
    public const NEVER = 3_650.0;

    /**
     * @param  array<array-key, float|null>  $used by the day, ascending; the last one is today
     * @return float|null 0 where it is full; null where too little is known
     */
    public static function of(array $used, float $limit): ?float
    {
        $known = Spread::known(array_slice(array_values($used), -self::DAYS - self::WEEK));
        if (count($known) < self::LEAST_DAYS || $limit <= 0.0) {
            return null;
        }
        $growth = self::growth($known);
        $left = $limit - $known[array_key_last($known)];

        return match (true) {
            $left <= 0.0 => 0.0,
            $growth <= 0.0 => self::NEVER,
            default => min(self::NEVER, $left / $growth),
        };
    }

    /**
     * @param  non-empty-array<int, float>  $known by the day
     */
    private static function growth(array $known): float
    {
        $last = array_key_last($known);
        $grown = [];
        foreach ($known as $day => $value) {
            if ($day > $last - self::DAYS && isset($known[$day - self::WEEK])) {
                $grown[] = ($value - $known[$day - self::WEEK]) / self::WEEK;
            }
        }
        $first = array_key_first($known);

        return count($grown) >= self::LEAST_DAYS ? Spread::median($grown) : ($known[$last] - $known[$first]) / max(1, $last - $first);
    }
}
