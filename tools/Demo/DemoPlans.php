<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Store\PlanStore;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Support\Facades\DB;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Ties the plans of the measured statements to their history.
 */
final readonly class DemoPlans
{
    /** Where the planner of the day of the trouble took a nested loop: a right side of hardly a row. */
    private const LOOP_BELOW = 8.0;

    public function __construct(private PlanStore $plans)
    {
    }

    /**
     * @param  array<string, array{PlanTotals, int, Plan}>  $measured
     */
    public function keep(Cluster $cluster, Warehouse $warehouse, array $measured): void
    {
        $fingerprinter = new Fingerprinter($cluster->dialect);
        $now = Clock::seconds();
        $change = $now - ($now % 86_400) - (DemoHistory::DAYS - DemoHistory::PLAN_CHANGE_DAY) * 86_400;
        DB::transaction(function () use ($cluster, $warehouse, $measured, $fingerprinter, $now, $change): void {
            foreach (Repertoire::all() as $statement) {
                if (! isset($measured[$statement->template]) || $statement->trouble === Repertoire::CROSS_JOIN) {
                    continue;
                }
                $sql = $statement->fill($now, new Randomizer(new Mt19937(7)));
                $fingerprint = $fingerprinter->of($sql)->id;
                $plan = $measured[$statement->template][2];
                if ($statement->trouble !== Repertoire::PICK_SUMMARY) {
                    $this->one($cluster, $fingerprint, $plan, 0, $now + 86_400);

                    continue;
                }
                $this->one($cluster, $fingerprint, $plan, 0, $change);
                $after = (new Engine($warehouse))->explain(
                    $sql,
                    new Session($statement->database, 'measurement', $now * 1_000_000),
                    self::LOOP_BELOW,
                );
                if ($after !== null) {
                    $this->one($cluster, $fingerprint, $after, $change, $now + 86_400);
                }
            }
        });
    }

    private function one(Cluster $cluster, string $fingerprint, Plan $plan, int $from, int $to): void
    {
        $seen = DB::selectOne(
            'SELECT SUM(l.executions) AS executions, SUM(l.duration_us) AS duration_us, MIN(l.bucket_at) AS first, MAX(l.bucket_at) AS
            last FROM load_day l JOIN statements s ON s.id = l.statement_id
            WHERE l.cluster_id = ? AND s.fingerprint = ? AND l.bucket_at >= ? AND l.bucket_at < ?',
            [$cluster->id, $fingerprint, $from, $to],
        );
        if ($seen !== null && (int) $seen->executions > 0) {
            $this->plans->keep(
                $cluster->id,
                $fingerprint,
                $plan,
                min((int) $seen->last + 86_399, Clock::seconds()) * 1_000_000,
                (int) $seen->executions,
                (int) $seen->duration_us,
                (int) $seen->first * 1_000_000,
            );
        }
    }
}
