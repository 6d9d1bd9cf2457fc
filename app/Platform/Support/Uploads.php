<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Illuminate\Http\UploadedFile;
use Illuminate\Support\Str;

/**
 * Files that were sent: where they wait until they are read, and what is in small ones.
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

    /**
     * @param  mixed  $file what a field of a form for one file holds
     * @return string|null what is in it; null where none was sent
     */
    public static function text(mixed $file): ?string
    {
        return $file instanceof UploadedFile ? (string) file_get_contents($file->getPathname()) : null;
    }
}
