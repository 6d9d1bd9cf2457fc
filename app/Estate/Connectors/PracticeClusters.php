<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

/**
 * Where the practice clusters of this installation keep their files.
 */
final class PracticeClusters
{
    public static function root(string $slug): string
    {
        return config('fulcrion.practice').'/'.$slug;
    }
}
