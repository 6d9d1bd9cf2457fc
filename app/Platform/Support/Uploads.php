<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Illuminate\Support\Str;

/**
 * Where files that were sent wait until they are read.
 */
final class Uploads
{
    /** A path nobody has; whoever reads the file there takes it away. */
    public static function path(): string
    {
        $directory = storage_path('app/uploads');
        is_dir($directory) || mkdir($directory, 0o700, true);

        return $directory.'/'.Str::ulid();
    }
}
