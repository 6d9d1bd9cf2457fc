<?php

declare(strict_types=1);

namespace App\Telemetry\Store;

use App\Platform\Support\SealedCache;
use Closure;
use Illuminate\Support\Facades\DB;

/**
 * Remembers what was summed of a cluster's load until more of it is written: sorting, paging and coming back to a page sum
 * nothing twice.
 */
final readonly class LoadMemory
{
    /** Windows move on, so nothing is asked for in the same words much later. */
    private const SECONDS = 900;

    /**
     * @template T
     *
     * @param  list<mixed>  $asked all that the result depends on beside the load itself
     * @param  list<class-string>  $classes all that may be in the result
     * @param  Closure(): T  $make
     * @return T
     */
    public static function remember(int $clusterId, string $name, array $asked, array $classes, Closure $make): mixed
    {
        // Read before the load is: what is written meanwhile has another stamp.
        $stamp = DB::table('clusters')->where('id', $clusterId)->value('load_stamp');

        return is_string($stamp)
            ? SealedCache::remember("load {$name}", [$clusterId, $stamp, $asked], $classes, $make, self::SECONDS)
            : $make();
    }

    /** Called in every transaction that changes the load of a cluster. */
    public static function forget(int $clusterId): void
    {
        DB::table('clusters')
            ->where('id', $clusterId)
            ->update(['load_stamp' => bin2hex(random_bytes(8))]);
    }
}
