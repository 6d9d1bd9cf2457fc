<?php

declare(strict_types=1);

namespace App\Capacity\Application;

use Fulcrion\Core\Capacity\PartKind;
use Fulcrion\Core\Capacity\StorageReading;
use Fulcrion\Core\Capacity\StoredPart;
use Illuminate\Support\Facades\DB;

/**
 * How full file systems were, by the hour, and what took the space, by the day (UTC).
 */
final readonly class CapacityStore
{
    /** Of a cluster that says itself how much it can store. */
    public const WHOLE = '';

    private const HOUR = 3_600;

    private const DAY = 86_400;

    private const KEPT_SECONDS = 400 * self::DAY;

    /** The last reading of an hour is kept. */
    public function keep(int $clusterId, string $place, StorageReading ...$readings): void
    {
        $rows = [];
        foreach ($readings as $one) {
            $hour = $one->at - $one->at % self::HOUR;
            $rows[$hour] = ['cluster_id' => $clusterId, 'place' => mb_strcut($place, 0, 250), 'at' => $hour,
                'used_bytes' => $one->usedBytes, 'limit_bytes' => $one->limitBytes];
        }
        foreach (array_chunk(array_values($rows), 1_000) as $chunk) {
            DB::table('capacity_readings')->upsert($chunk, ['cluster_id', 'place', 'at'], ['used_bytes', 'limit_bytes']);
        }
    }

    /**
     * @param  list<StoredPart>  $parts
     */
    public function keepParts(int $clusterId, int $at, array $parts): void
    {
        $day = $at - $at % self::DAY;
        $rows = [];
        foreach ($parts as $part) {
            $object = mb_strcut($part->object, 0, 190);
            $rows["{$part->kind->value} {$object}"] = ['cluster_id' => $clusterId, 'day_at' => $day, 'kind' => $part->kind->value,
                'object' => $object, 'bytes' => $part->bytes];
        }
        DB::transaction(static function () use ($clusterId, $day, $rows): void {
            DB::table('capacity_parts')->where('cluster_id', $clusterId)->where('day_at', $day)->delete();
            foreach (array_chunk(array_values($rows), 500) as $chunk) {
                DB::table('capacity_parts')->insert($chunk);
            }
        });
    }

    /**
     * @return list<string> that were read in a span
     */
    public function places(int $clusterId, int $from, int $to): array
    {
        return array_values(array_map(strval(...), DB::table('capacity_readings')->where('cluster_id', $clusterId)
            ->where('at', '>=', $from)->where('at', '<', $to)->distinct()->orderBy('place')->pluck('place')->all()));
    }

    /**
     * @return list<StorageReading> ascending
     */
    public function readings(int $clusterId, string $place, int $from, int $to): array
    {
        return array_values(DB::table('capacity_readings')->where('cluster_id', $clusterId)->where('place', $place)
            ->where('at', '>=', $from)->where('at', '<', $to)->orderBy('at')->get(['at', 'used_bytes', 'limit_bytes'])
            ->map(static fn ($row): StorageReading => new StorageReading((int) $row->at, (float) $row->used_bytes,
                (float) $row->limit_bytes))
            ->all());
    }

    /**
     * @param  int  $at what was known last on its day, or on the last day before it that was measured
     * @return list<StoredPart> the largest first
     */
    public function parts(int $clusterId, int $at): array
    {
        $day = DB::table('capacity_parts')->where('cluster_id', $clusterId)->where('day_at', '<=', $at)->max('day_at');

        return $day === null ? [] : array_values(DB::table('capacity_parts')->where('cluster_id', $clusterId)->where('day_at', $day)
            ->orderByDesc('bytes')->orderBy('object')->get(['kind', 'object', 'bytes'])
            ->map(static fn ($row): StoredPart => new StoredPart(PartKind::from((string) $row->kind), (string) $row->object,
                (float) $row->bytes))
            ->all());
    }

    public function prune(int $now): void
    {
        DB::table('capacity_readings')->where('at', '<', $now - self::KEPT_SECONDS)->delete();
        DB::table('capacity_parts')->where('day_at', '<', $now - self::KEPT_SECONDS)->delete();
    }
}
