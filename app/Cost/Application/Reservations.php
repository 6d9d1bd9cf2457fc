<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Fulcrion\Core\Cost\Reserve;
use Fulcrion\Core\Usage\Days;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Which part of a cluster teams reserved.
 */
final class Reservations
{
    private const PERCENT = Reserve::WHOLE / 100;

    /**
     * @return list<stdClass> the latest first
     */
    public static function rows(Cluster $cluster): array
    {
        return array_values(
            DB::table('cost_reservations')->where('cluster_id', $cluster->id)->orderByDesc('from_at')->orderBy('team')->get()->all(),
        );
    }

    /**
     * @return array<string, int> millionths of the cluster by team, on the mean of some days
     */
    public static function of(Cluster $cluster, Days $days): array
    {
        $parts = [];
        foreach (self::rows($cluster) as $row) {
            $from = max($days->from, (int) $row->from_at);
            $to = min($days->to, $row->to_at === null ? $days->to : (int) $row->to_at);
            if ($to > $from) {
                $part = (float) $row->percent * self::PERCENT * ($to - $from) / ($days->to - $days->from);
                $parts[$row->team] = ($parts[$row->team] ?? 0.0) + $part;
            }
        }

        return array_map(static fn (float $part): int => (int) round($part), $parts);
    }

    /**
     * How much of a cluster would be reserved at once at most, with another one.
     *
     * @param  int|null  $to end; null where it goes on
     */
    public static function most(Cluster $cluster, float $percent, int $from, ?int $to): float
    {
        $rows = self::rows($cluster);
        $most = $percent;
        // It can only be most where one begins.
        foreach ([$from, ...array_map(static fn (stdClass $row): int => (int) $row->from_at, $rows)] as $at) {
            if ($at >= $from && ($to === null || $at < $to)) {
                $most = max($most, $percent + array_sum(array_map(
                    static fn (stdClass $row): float => (int) $row->from_at <= $at && ($row->to_at === null || $at < (int) $row->to_at)
                        ? (float) $row->percent : 0.0,
                    $rows,
                )));
            }
        }

        return $most;
    }

    public static function add(Cluster $cluster, string $team, string $percent, int $from, ?int $to, string $by): void
    {
        // A team that never used anything is one from now on.
        DB::table('usage_teams')->insertOrIgnore(['name' => $team]);
        DB::table('cost_reservations')->insert([
            'cluster_id' => $cluster->id, 'team' => $team, 'percent' => $percent, 'from_at' => $from, 'to_at' => $to, 'made_by' => $by,
            'made_us' => Clock::microseconds(),
        ]);
    }

    public static function remove(Cluster $cluster, int $id): ?stdClass
    {
        $row = DB::table('cost_reservations')->where('cluster_id', $cluster->id)->where('id', $id)->first();
        DB::table('cost_reservations')->where('cluster_id', $cluster->id)->where('id', $id)->delete();
        if ($row !== null && ! DB::table('cost_reservations')->where('team', $row->team)->exists()) {
            // A name nobody used anything under is no team any more.
            $team = (int) DB::table('usage_teams')->where('name', $row->team)->value('id');
            if (! DB::table('usage_origin_days')->where('team_id', $team)->exists()) {
                DB::table('usage_teams')->where('id', $team)->delete();
            }
        }

        return $row;
    }

    /** Clusters a team reserved something of on some days. */
    public static function reserves(Cluster $cluster, string $team, Days $days): bool
    {
        return (self::of($cluster, $days)[$team] ?? 0) > 0;
    }
}
