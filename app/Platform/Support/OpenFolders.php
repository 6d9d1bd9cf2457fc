<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Fulcrion\Core\Text\Parts;

/**
 * The folders of this host that people may name: those below the roots the installation opens.
 */
final class OpenFolders
{
    /**
     * @return list<string>
     */
    public static function roots(): array
    {
        return Parts::said(array_map(realpath(...), Parts::between((string) config('fulcrion.lake'), ':')));
    }

    /** @return string|null where a path leads; null where that is no folder, or none that is open */
    public static function real(string $path): ?string
    {
        $real = $path === '' ? '' : (string) realpath($path);
        if (! is_dir($real)) {
            return null;
        }
        foreach (self::roots() as $root) {
            if ($real === $root || str_starts_with($real, "{$root}/")) {
                return $real;
            }
        }

        return null;
    }
}
