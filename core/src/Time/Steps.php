<?php

declare(strict_types=1);

namespace Fulcrion\Core\Time;

/**
 * How finely a span of time is cut to be drawn.
 */
final readonly class Steps
{
    /**
     * The shortest step that cuts a span into no more pieces than may be; the longest of them where none does.
     *
     * @param  non-empty-list<int>  $steps seconds, the shortest first
     */
    public static function shortest(int $seconds, array $steps, int $most): int
    {
        foreach ($steps as $step) {
            if ($seconds / $step <= $most) {
                return $step;
            }
        }

        return $steps[count($steps) - 1];
    }
}
