<?php

declare(strict_types=1);

namespace App\Health\Probes;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Health\ProbeScale;
use Fulcrion\Core\Statistics\Spread;
use Illuminate\Support\Facades\DB;

/**
 * Hours in which a statement took much longer than it usually does while the system was steady, and did not on other days.
 */
final readonly class SlowHours
{
    private const HOUR = 3_600;

    private const DAYS = 7 * 86_400;

    private const MUCH = 10.0;

    /** Microseconds more than usual in that hour. */
    private const LEAST_EXCESS_US = 30_000_000;

    /** A statement that takes so many times as long on most days is another matter. */
    private const ALWAYS = 2.0;

    /** A probe that takes less than so many times its idle time is steady. */
    private const STEADY = 2.0;

    private const MOST = 20;

    public function __construct(private UsualRuns $runs)
    {
    }

    /**
     * @return list<array{fingerprint: string, hour: int, user: string, now: StatementFacts, usual: StatementFacts}> of each statement the
     *     worst hour of the last week, the worst first
     */
    public function of(Cluster $cluster, ProbeScale $scale, int $now): array
    {
        $from = $now - self::DAYS;
        $from -= $from % self::HOUR;
        $hours = [];
        foreach (DB::table('load_hour')->where('cluster_id', $cluster->id)->where('bucket_at', '>=', $from)->where('bucket_at', '<', $now)
            ->groupBy('statement_id', 'bucket_at')->selectRaw('statement_id, bucket_at, '.UsualRuns::SUMS)->get() as $row) {
            if ((int) $row->executions > 0) {
                $hours[(int) $row->statement_id][(int) $row->bucket_at] = UsualRuns::facts($row);
            }
        }
        $usual = $this->runs->usual($cluster, array_keys($hours), $from);
        $found = [];
        foreach (array_intersect_key($hours, $usual) as $statement => $list) {
            $its = max(1.0, $usual[$statement]->ranUs());
            $ran = array_map(static fn (StatementFacts $one): float => $one->ranUs(), $list);
            if (Spread::median($ran) >= self::ALWAYS * $its) {
                continue;
            }
            arsort($ran);
            $hour = (int) array_key_first($ran);
            $one = $list[$hour];
            $probe = $scale->middle($hour, $hour + self::HOUR);
            if ($one->ranUs() >= self::MUCH * $its && ($one->ranUs() - $its) * $one->executions >= self::LEAST_EXCESS_US
                && $probe !== null && $probe[0] < self::STEADY) {
                $found[$statement] = ['hour' => $hour, 'now' => $one, 'usual' => $usual[$statement]];
            }
        }
        uasort($found, static fn (array $a, array $b): int => $b['now']->ranUs() * $b['now']->executions
            <=> $a['now']->ranUs() * $a['now']->executions);

        return $this->named($cluster, array_slice($found, 0, self::MOST, true));
    }

    /**
     * @param  array<int, array{hour: int, now: StatementFacts, usual: StatementFacts}>  $found
     * @return list<array{fingerprint: string, hour: int, user: string, now: StatementFacts, usual: StatementFacts}>
     */
    private function named(Cluster $cluster, array $found): array
    {
        $prints = DB::table('statements')->whereIn('id', array_keys($found))->pluck('fingerprint', 'id');
        $named = [];
        foreach ($found as $statement => $one) {
            $user = DB::table('load_hour as l')->join('origins as o', 'o.id', '=', 'l.origin_id')->where('l.cluster_id', $cluster->id)
                ->where('l.statement_id', $statement)->where('l.bucket_at', $one['hour'])->orderByDesc('l.duration_us')
                ->value('o.user_name');
            $named[] = ['fingerprint' => (string) $prints[$statement], 'user' => is_string($user) ? $user : 'somebody'] + $one;
        }

        return $named;
    }
}
