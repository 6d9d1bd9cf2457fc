<?php

declare(strict_types=1);

namespace App\Metrics\Places;

use App\Estate\Models\Cluster;
use App\Metrics\Store\KeptHours;
use App\Metrics\Store\PointStore;
use App\Platform\Support\Clock;
use Illuminate\Database\Connection;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Takes the readings of a cluster to another server, or back. They are copied first; then the place is changed, and what came meanwhile is
 * put beside them; last they are taken away where they were. What is broken off goes on where it was.
 */
final readonly class PlaceMove
{
    private const HOUR = 3_600;

    private const SERIES_AT_ONCE = 50;

    private const ROWS_AT_ONCE = 500;

    public function __construct(private Places $places, private PointStore $points, private KeptHours $hours)
    {
    }

    /**
     * @throws PlaceError
     */
    public function move(KeptPlace $place): void
    {
        $there = Places::connected($place);
        if (Cluster::query()->whereKey($place->cluster_id)->doesntExist()) {
            $this->clear($place->cluster_id, $there);
            self::end($place->cluster_id);
            $place->delete();

            return;
        }
        [$from, $to] = in_array($place->state, [PlaceState::Leaving, PlaceState::Left], true) ? [$there, DB::connection()]
            : [DB::connection(), $there];
        if ($place->state === PlaceState::Coming || $place->state === PlaceState::Leaving) {
            $this->copy($place, $from, $to);
            $next = $place->state === PlaceState::Coming ? PlaceState::There : PlaceState::Left;
            // Somebody may have called it off meanwhile.
            if (KeptPlace::query()->whereKey($place->id)->where('state', $place->state)->update(['state' => $next]) === 0) {
                return;
            }
            $place->refresh();
            $this->places->forget();
        }
        $this->settle($place, $from, $to);
        $this->clear($place->cluster_id, $from);
        if ($place->state === PlaceState::Left) {
            $place->delete();
        } else {
            $place->update(['error' => null]);
        }
        $this->places->forget();
    }

    /** Takes the series of a cluster that was removed away, with what is kept of them here. */
    public static function end(int $clusterId): void
    {
        DB::table('metric_series')->where('cluster_id', $clusterId)->delete();
    }

    /** Takes away what is kept of a cluster somewhere. */
    private function clear(int $clusterId, Connection $at): void
    {
        foreach (array_chunk(self::series($clusterId), self::SERIES_AT_ONCE) as $series) {
            foreach (PlaceTables::BY_SERIES as $table) {
                $at->table($table)->whereIn('series_id', $series)->delete();
            }
        }
        foreach (PlaceTables::BY_HOST as $table) {
            $at->table($table)->where('cluster_id', $clusterId)->delete();
        }
    }

    private function copy(KeptPlace $place, Connection $from, Connection $to): void
    {
        $series = array_chunk(self::series($place->cluster_id), self::SERIES_AT_ONCE);
        $parts = [];
        foreach (PlaceTables::BY_SERIES as $table) {
            foreach ($series as $some) {
                $parts[] = [$table, static fn (): Builder => $from->table($table)->whereIn('series_id', $some)];
            }
        }
        $parts[] = ['host_processes', static fn (): Builder => $from->table('host_processes')->where('cluster_id', $place->cluster_id)];
        $place->update([
            'rows_moved' => 0, 'error' => null,
            'rows_all' => array_sum(array_map(static fn (array $part): int => $part[1]()->count(), $parts)),
        ]);
        $moved = 0;
        foreach ($parts as [$table, $rows]) {
            $all = $rows()->get()->map(static fn (stdClass $row): array => (array) $row)->all();
            foreach (array_chunk($all, self::ROWS_AT_ONCE) as $some) {
                $to->table($table)->upsert($some, [], array_keys($some[0]));
                $moved += count($some);
            }
            if (KeptPlace::query()->whereKey($place->id)->where('state', $place->state)->update(['rows_moved' => $moved]) === 0
                && ! KeptPlace::query()->whereKey($place->id)->where('state', $place->state)->exists()) {
                return;
            }
        }
    }

    /** What came while it was copied. */
    private function settle(KeptPlace $place, Connection $from, Connection $to): void
    {
        foreach (array_chunk(self::series($place->cluster_id), self::SERIES_AT_ONCE) as $series) {
            $after = self::told($to, $series);
            foreach (self::told($from, $series) as $number => $hours) {
                $missing = array_keys(array_diff_assoc($hours, $after[$number] ?? []));
                if ($missing !== []) {
                    $this->hours->write($place->cluster_id, [$number => $this->hours->at($from, $number, $missing)]);
                }
            }
        }
        // What is not put together yet is put together over there.
        $this->points->sealAll($from, Clock::seconds() + self::HOUR, $place->cluster_id);
    }

    /**
     * @param  list<int>  $series
     * @return array<int, array<int, string>> what tells an hour from the same one with other points, by hour, by series
     */
    private static function told(Connection $at, array $series): array
    {
        $told = [];
        foreach ($at->table('metric_blocks')->whereIn('series_id', $series)
            ->selectRaw('series_id, hour_at, CONCAT(points, " ", CRC32(body)) AS told')->get() as $row) {
            $told[(int) $row->series_id][(int) $row->hour_at] = (string) $row->told;
        }

        return $told;
    }

    /**
     * @return list<int>
     */
    private static function series(int $clusterId): array
    {
        return array_values(DB::table('metric_series')->where('cluster_id', $clusterId)->orderBy('id')->pluck('id')
            ->map(static fn (mixed $id): int => (int) $id)->all());
    }
}
