<?php

declare(strict_types=1);

namespace App\Health\Application;

use App\Estate\Models\Cluster;
use App\Platform\Figures\TimeMarks;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * When servers were started again and how their variables were set.
 */
final readonly class ServerEvents
{
    public const RESTART = 'restart';

    public const VARIABLE = 'variable';

    private const KEPT_US = 400 * 86_400_000_000;

    /**
     * @param  int  $lastReadUs when it was last known to run
     */
    public function restarted(Cluster $cluster, int $startedUs, int $lastReadUs): void
    {
        $this->add($cluster, self::RESTART, '', (string) $lastReadUs, null, $startedUs);
    }

    public function set(Cluster $cluster, string $name, ?string $before, ?string $after, int $nowUs): void
    {
        $cut = static fn (?string $value): ?string => $value === null ? null : mb_strcut($value, 0, 2000);
        $this->add($cluster, self::VARIABLE, mb_strcut($name, 0, 100), $cut($before), $cut($after), $nowUs);
    }

    /**
     * @return list<stdClass> at_us, kind, name, before and after; newest first. Of a restart before is when it was read last.
     */
    public function between(Cluster $cluster, int $fromUs, int $toUs, ?string $kind = null): array
    {
        $query = DB::table('server_events')->where('cluster_id', $cluster->id)->whereBetween('at_us', [$fromUs, $toUs]);
        if ($kind !== null) {
            $query->where('kind', $kind);
        }

        return array_values($query->orderByDesc('at_us')->orderByDesc('id')->limit(500)->get()->all());
    }

    /**
     * Starts of a server, for figures over time.
     *
     * @return array<int, string> name by Unix second
     */
    public function starts(int $clusterId, int $from, int $to): array
    {
        $times = DB::table('server_events')
            ->where('cluster_id', $clusterId)
            ->where('kind', self::RESTART)
            ->whereBetween('at_us', [$from * 1_000_000, $to * 1_000_000 - 1])
            ->pluck('at_us');

        return array_fill_keys($times->map(static fn (int|string $us): int => intdiv((int) $us, 1_000_000))->all(), 'started');
    }

    /**
     * Variables that were set.
     *
     * @return array<int, string> name by Unix second
     */
    public function settings(int $clusterId, int $from, int $to): array
    {
        return TimeMarks::named(DB::table('server_events')->where('cluster_id', $clusterId)->where('kind', self::VARIABLE)
            ->whereBetween('at_us', [$from * 1_000_000, $to * 1_000_000 - 1])->orderBy('id')->limit(500)->get(['at_us', 'name'])
            ->map(static fn (stdClass $row): array => [intdiv((int) $row->at_us, 1_000_000), (string) $row->name]));
    }

    public function prune(int $nowUs): void
    {
        DB::table('server_events')->where('at_us', '<', $nowUs - self::KEPT_US)->delete();
    }

    private function add(Cluster $cluster, string $kind, string $name, ?string $before, ?string $after, int $atUs): void
    {
        DB::table('server_events')->insert([
            'cluster_id' => $cluster->id,
            'at_us' => $atUs,
            'kind' => $kind,
            'name' => $name,
            'before' => $before,
            'after' => $after,
        ]);
    }
}
