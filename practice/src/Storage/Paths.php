<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

/**
 * What there is in folders.
 */
final class Paths
{
    /**
     * @param  string  $pattern as a shell reads it, with one of several in braces
     * @return list<string> sorted; none where there are none or the folder cannot be read
     */
    public static function matching(string $pattern, int $flags = 0): array
    {
        $paths = glob($pattern, $flags);

        return $paths === false ? [] : $paths;
    }
}
