<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Closure;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\Crypt;

/**
 * Keeps in files what was worked out from something that says when it changes. Sealed, since it is as secret as that, and
 * nothing but what was written here is ever read back.
 */
final readonly class SealedCache
{
    private const DAY = 86_400;

    /**
     * @template T
     *
     * @param  list<class-string>  $classes all that may come back
     * @param  Closure(): T  $make
     * @return T
     */
    public static function remember(string $name, mixed $stamp, array $classes, Closure $make, int $seconds = self::DAY): mixed
    {
        $key = "{$name} ".hash('xxh128', serialize($stamp));
        $kept = Cache::store('file')->get($key);
        if (is_string($kept)) {
            return unserialize(Crypt::decryptString($kept), ['allowed_classes' => $classes]);
        }
        $made = $make();
        Cache::store('file')->put($key, Crypt::encryptString(serialize($made)), $seconds);

        return $made;
    }
}
