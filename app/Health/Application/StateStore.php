<?php

declare(strict_types=1);

namespace App\Health\Application;

use Fulcrion\Core\Metrics\Readings;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/**
 * One row a reading: each of the last day, one a minute of the two weeks before.
 */
final readonly class StateStore implements MetricStore
{
    private const FINE_SECONDS = 86_400;

    private const KEPT_SECONDS = 14 * 86_400;

    private const COARSE_SECONDS = 60;

    public function keep(int $clusterId, int $at, array $values): void
    {
        DB::table('server_states')->insertOrIgnore([
            'cluster_id' => $clusterId,
            'at' => $at,
            'packed' => (string) gzdeflate(json_encode($values, JSON_THROW_ON_ERROR), 6),
        ]);
    }

    public function readings(int $clusterId, array $measures, int $from, int $to, int $patience): array
    {
        $of = static fn (): Builder => DB::table('server_states')->where('cluster_id', $clusterId);
        $first = $of()->where('at', '<', $from)->where('at', '>=', $from - $patience)->max('at') ?? $from;
        $last = $of()->where('at', '>=', $to)->where('at', '<=', $to + $patience)->min('at') ?? $to;
        $lists = array_fill_keys($measures, []);
        foreach ($of()->whereBetween('at', [$first, $last])->orderBy('at')->cursor() as $row) {
            $values = json_decode((string) gzinflate($row->packed), true);
            foreach ($measures as $measure) {
                $lists[$measure][] = [(int) $row->at, isset($values[$measure]) ? (float) $values[$measure] : null];
            }
        }

        return array_map(static fn (array $list): Readings => new Readings($list, $patience), $lists);
    }

    public function prune(int $now): void
    {
        DB::table('server_states')->where('at', '<', $now - self::KEPT_SECONDS)->delete();
        // Of the days before the last one the first reading of each minute stays.
        DB::delete(
            'DELETE s FROM server_states s JOIN (
                SELECT cluster_id, at DIV '.self::COARSE_SECONDS.' AS minute, MIN(at) AS first_at FROM server_states WHERE at < ?
                GROUP BY cluster_id, minute HAVING COUNT(*) > 1
            ) f ON s.cluster_id = f.cluster_id AND s.at DIV '.self::COARSE_SECONDS.' = f.minute WHERE s.at > f.first_at AND s.at < ?',
            [$now - self::FINE_SECONDS, $now - self::FINE_SECONDS],
        );
    }
}
