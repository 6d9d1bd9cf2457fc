<?php

declare(strict_types=1);

namespace App\Telemetry\Store;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Usage\StatementTables;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Sql\Fingerprinter;
use Illuminate\Contracts\Encryption\Encrypter;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Keeps one plan a shape, statement and cluster, with the figures of its last run.
 */
final readonly class PlanStore
{
    public function __construct(private Encrypter $encrypter)
    {
    }

    /**
     * @param  string  $statement fingerprint
     * @return int id of the plan
     */
    public function keep(
        int $clusterId,
        string $statement,
        Plan $plan,
        int $atUs,
        int $executions = 0,
        int $durationUs = 0,
        ?int $firstUs = null,
    ): int {
        $key = ['cluster_id' => $clusterId, 'statement' => $statement, 'shape' => $plan->fingerprint()];
        $sealed = $this->encrypter->encrypt((string) gzdeflate($plan->toJson(), 6), false);
        if ($plan->actual) {
            StatementTables::forget($clusterId, $statement);
        }
        // A plan with actual figures tells more than one without.
        $known = DB::table('plans')->where($key)->first();
        if ($known === null) {
            DB::table('plans')->insertOrIgnore(
                $key + [
                    'engine' => $plan->engine,
                    'actual' => $plan->actual,
                    'first_us' => $firstUs ?? $atUs,
                    'last_us' => $atUs,
                    'executions' => $executions,
                    'duration_us' => $durationUs,
                    'sealed' => $sealed,
                ],
            );

            return (int) DB::table('plans')->where($key)->value('id');
        }
        DB::table('plans')
            ->where('id', $known->id)
            ->update(
                [
                    'first_us' => min((int) $known->first_us, $firstUs ?? $atUs),
                    'last_us' => max((int) $known->last_us, $atUs),
                    'executions' => DB::raw('executions + '.$executions),
                    'duration_us' => DB::raw('duration_us + '.$durationUs),
                ] + ($plan->actual || ! $known->actual ? ['sealed' => $sealed, 'actual' => $plan->actual] : []),
            );

        return (int) $known->id;
    }

    /**
     * A plan somebody has just asked for.
     *
     * @return int id of the plan
     */
    public function keepOf(Cluster $cluster, string $sql, Plan $plan, int $executions): int
    {
        $duration = $plan->actual ? PlanTotals::of($plan)->durationUs : 0;

        return $this->keep(
            $cluster->id,
            (new Fingerprinter($cluster->dialect))->of($sql)->id,
            $plan,
            Clock::microseconds(),
            $plan->actual ? $executions : 0,
            $plan->actual ? $duration * $executions : 0,
        );
    }

    /**
     * The plan of a live statement was asked for.
     *
     * @param  string|null  $shape null where it was not told
     */
    public function noteTake(int $clusterId, string $statement, int $nowUs, ?string $shape, ?string $problem): void
    {
        DB::table('plan_takes')->upsert(
            [[
                'cluster_id' => $clusterId,
                'statement' => $statement,
                'shape' => $shape,
                'first_us' => $nowUs,
                'last_us' => $nowUs,
                'takes' => $shape === null ? 0 : 1,
                'problem' => $problem,
            ]],
            [],
            [
                'shape' => DB::raw('COALESCE(VALUES(shape), shape)'),
                'last_us' => DB::raw('VALUES(last_us)'),
                'takes' => DB::raw('takes + VALUES(takes)'),
                'problem' => DB::raw('VALUES(problem)'),
            ],
        );
    }

    /**
     * @param  list<string>  $statements fingerprints
     * @return array<string, stdClass> shape, first_us, last_us, takes and problem, by fingerprint
     */
    public function takes(int $clusterId, array $statements): array
    {
        return $statements === []
            ? []
            : DB::table('plan_takes')->where('cluster_id', $clusterId)->whereIn('statement', $statements)->get()->keyBy('statement')->all();
    }

    /**
     * When a statement was first seen to run by another plan than before.
     *
     * @return list<int> Unix seconds within the span, ascending
     */
    public function changed(int $clusterId, string $statement, int $from, int $to): array
    {
        $first = DB::table('plans')
            ->where('cluster_id', $clusterId)
            ->where('statement', $statement)
            ->orderBy('first_us')
            ->pluck('first_us')
            ->map(static fn (int|string $us): int => intdiv((int) $us, 1_000_000))
            ->slice(1);

        return array_values($first->filter(static fn (int $at): bool => $at >= $from && $at < $to)->unique()->all());
    }

    public function pruneTakes(int $beforeUs): void
    {
        DB::table('plan_takes')->where('last_us', '<', $beforeUs)->delete();
    }

    public function open(string $sealed): Plan
    {
        return Plan::read((string) gzinflate((string) $this->encrypter->decrypt($sealed, false)));
    }
}
