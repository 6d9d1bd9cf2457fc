<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

/**
 * For how long nothing was told, at the end of each step.
 */
final readonly class SilentSeconds
{
    /**
     * @param  list<float|null>  $values one a step; null where nothing was told
     * @param  int|null  $before seconds nothing had been told for when the first step began; null where nothing is known of before
     * @return list<float|null> null until something was told for the first time
     */
    public static function of(array $values, int $step, ?int $before = null): array
    {
        $silent = [];
        foreach ($values as $value) {
            $before = $value !== null ? 0 : ($before === null ? null : $before + $step);
            $silent[] = $before === null ? null : (float) $before;
        }

        return $silent;
    }
}
