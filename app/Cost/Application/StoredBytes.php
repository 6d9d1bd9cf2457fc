<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * How large tables are on each day, as their cluster tells it; what it told last on a day is kept.
 */
final readonly class StoredBytes
{
    public function __construct(private Clusters $clusters, private Calendar $calendar)
    {
    }

    /**
     * @return int tables that were measured; none where the cluster does not tell
     *
     * @throws SourceError
     */
    public function measure(Cluster $cluster, int $now): int
    {
        $objects = $this->clusters->as(Actor::system(SystemActor::Meter, 'how much is stored'))->catalog($cluster)?->objects(false);
        $day = $this->calendar->day($now);
        $rows = [];
        foreach ($objects ?? [] as $one) {
            if (! $one->isView && $one->bytes !== null) {
                $path = mb_strcut("{$one->schema}.{$one->name}", 0, 190);
                $rows[$path] = ['cluster_id' => $cluster->id, 'day_at' => $day, 'path' => $path, 'bytes' => $one->bytes,
                    'is_modelled' => $one->scale > 1];
            }
        }
        if ($rows !== []) {
            DB::transaction(static function () use ($cluster, $day, $rows): void {
                DB::table('stored_tables')->where('cluster_id', $cluster->id)->where('day_at', $day)->delete();
                foreach (array_chunk(array_values($rows), 500) as $chunk) {
                    DB::table('stored_tables')->insert($chunk);
                }
            });
        }

        return count($rows);
    }

    /**
     * @return array<int, int> bytes by the day they were measured on, oldest first: up to a day, and from the last one before some days on
     */
    public static function daily(Cluster $cluster, Days $days): array
    {
        $first = DB::table('stored_tables')->where('cluster_id', $cluster->id)->where('day_at', '<=', $days->from)->max('day_at');

        return DB::table('stored_tables')
            ->where('cluster_id', $cluster->id)
            ->where('day_at', '>=', $first ?? $days->from)
            ->where('day_at', '<', $days->to)
            ->groupBy('day_at')
            ->orderBy('day_at')
            ->selectRaw('day_at, SUM(bytes) AS bytes')
            ->pluck('bytes', 'day_at')
            ->map(static fn (mixed $bytes): int => (int) $bytes)
            ->all();
    }

    /**
     * @return stdClass|null day_at, bytes, and whether they are those of a modelled cluster; null where nothing was measured
     */
    public static function latest(Cluster $cluster): ?stdClass
    {
        return DB::table('stored_tables')
            ->where('cluster_id', $cluster->id)
            ->groupBy('day_at')
            ->orderByDesc('day_at')
            ->selectRaw('day_at, SUM(bytes) AS bytes, MAX(is_modelled) AS is_modelled')
            ->first();
    }

    /**
     * @return array<string, int> bytes by table, added up over the days they were measured on
     */
    public static function byTable(Cluster $cluster, Days $days): array
    {
        $measured = array_keys(self::daily($cluster, $days));

        return $measured === [] ? [] : DB::table('stored_tables')
            ->where('cluster_id', $cluster->id)
            ->where('day_at', '>=', $measured[0])
            ->where('day_at', '<', $days->to)
            ->groupBy('path')
            ->orderBy('path')
            ->selectRaw('path, SUM(bytes) AS bytes')
            ->pluck('bytes', 'path')
            ->map(static fn (mixed $bytes): int => (int) $bytes)
            ->all();
    }
}
