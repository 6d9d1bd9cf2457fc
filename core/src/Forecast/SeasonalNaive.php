<?php

declare(strict_types=1);

namespace Fulcrion\Core\Forecast;

/**
 * The last known amount of the same day of the week: what any other forecast has to be better than.
 */
final class SeasonalNaive
{
    private const WEEK = 7;

    /**
     * @param  list<float|null>  $values
     * @param  list<int>  $origins ascending
     * @return array<int, list<float>>
     */
    public static function from(array $values, array $origins, int $horizon): array
    {
        $forecasts = [];
        $last = [];
        $latest = 0.0;
        $at = 0;
        foreach ($origins as $origin) {
            for (; $at < $origin; $at++) {
                if ($values[$at] !== null) {
                    $last[$at % self::WEEK] = $latest = $values[$at];
                }
            }
            $forecast = [];
            for ($h = 0; $h < $horizon; $h++) {
                $forecast[] = $last[($origin + $h) % self::WEEK] ?? $latest;
            }
            $forecasts[$origin] = $forecast;
        }

        return $forecasts;
    }
}
