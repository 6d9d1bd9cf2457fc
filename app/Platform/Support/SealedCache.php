<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Closure;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\Crypt;

/**
 * Keeps what was worked out from something that says when it changes, in files or where all servers find it. Sealed, since it is as
 * secret as that, and nothing but what was written here is ever read back.
 */
final readonly class SealedCache
{
    private const DAY = 86_400;

    /**
     * @template T
     *
     * @param  list<class-string>  $classes all that may come back
     * @param  Closure(): T  $make
     * @param  string|null  $store null for that of the application, which all its servers share
     * @return T
     */
    public static function remember(string $name, mixed $stamp, array $classes, Closure $make, int $seconds = self::DAY,
        ?string $store = 'file'): mixed
    {
        $key = "{$name} ".hash('xxh128', serialize($stamp));
        $kept = Cache::store($store)->get($key);
        $plain = is_string($kept) ? @gzinflate(Crypt::decryptString($kept)) : false;
        if ($plain !== false) {
            return unserialize($plain, ['allowed_classes' => $classes]);
        }
        $made = $make();
        Cache::store($store)->put($key, Crypt::encryptString((string) gzdeflate(serialize($made), 1)), $seconds);

        return $made;
    }
}
