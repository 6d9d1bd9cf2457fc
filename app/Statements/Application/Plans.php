<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Estate\Authorization\Clusters;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Telemetry\Store\PlanStore;
use Fulcrion\Core\Plans\PlanVeil;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Finds kept plans.
 */
final readonly class Plans
{
    public function __construct(private PlanStore $store, private Clusters $clusters)
    {
    }

    /** As its reader may see it: without figures of tables that are not wholly open to them, whoever ran the statement. */
    public function find(int $id, User $reader): ?StoredPlan
    {
        $row = DB::table('plans')->where('id', $id)->first();

        return $row === null ? null : $this->stored($row, $reader);
    }

    /**
     * @return list<StoredPlan> last seen first
     */
    public function of(int $clusterId, string $statement, User $reader): array
    {
        $rows = DB::table('plans')
            ->where('cluster_id', $clusterId)
            ->where('statement', $statement)
            ->orderByDesc('last_us')
            ->limit(20)
            ->get();

        return array_values($rows->map(fn (stdClass $row): StoredPlan => $this->stored($row, $reader))->all());
    }

    /**
     * @return list<stdClass> without the plans themselves: last seen first, with cluster and statement text
     */
    public function list(?int $clusterId, string $words, int $limit): array
    {
        // Which ones first, by what is short; their texts are long, and sorting those would take most of the time.
        $query = DB::table('plans')
            ->select('plans.id')
            ->selectRaw('COUNT(*) OVER (PARTITION BY plans.cluster_id, plans.statement) AS shapes');
        if ($clusterId !== null) {
            $query->where('plans.cluster_id', $clusterId);
        }
        $words = array_filter(explode(' ', $words));
        if ($words !== []) {
            $query->join('statements', 'statements.fingerprint', '=', 'plans.statement');
        }
        foreach ($words as $word) {
            $query->where('statements.text', 'like', '%'.addcslashes($word, '%_\\').'%');
        }
        $shapes = $query
            ->orderByDesc('shapes')
            ->orderByDesc('plans.last_us')
            ->orderByDesc('plans.id')
            ->limit($limit)
            ->pluck('shapes', 'plans.id');
        $plans = DB::table('plans')
            ->leftJoin('statements', 'statements.fingerprint', '=', 'plans.statement')
            ->join('clusters', 'clusters.id', '=', 'plans.cluster_id')
            ->whereIn('plans.id', $shapes->keys())
            ->select(
                'plans.id',
                'plans.statement',
                'plans.shape',
                'plans.engine',
                'plans.actual',
                'plans.first_us',
                'plans.last_us',
                'plans.executions',
                'plans.duration_us',
                'clusters.name as cluster',
                'clusters.slug',
            )
            ->selectRaw('LEFT(statements.text, 400) AS text')
            ->get()
            ->keyBy('id');
        $list = [];
        foreach ($shapes as $id => $count) {
            $plans[$id]->shapes = $count;
            $list[] = $plans[$id];
        }

        return $list;
    }

    private function stored(stdClass $row, User $reader): StoredPlan
    {
        $plan = $this->store->open($row->sealed);
        $cluster = Cluster::query()->findOrFail((int) $row->cluster_id);
        $visibility = $this->clusters->visibility($reader, $cluster);
        $plan = PlanVeil::ofOthers(
            $plan,
            array_values(array_filter(PlanVeil::tables($plan), static fn (string $table): bool => ! $visibility->isPlain($table))),
        );

        return new StoredPlan(
            (int) $row->id,
            $cluster->id,
            $row->statement,
            $row->shape,
            (int) $row->first_us,
            (int) $row->last_us,
            (int) $row->executions,
            (int) $row->duration_us,
            $plan,
        );
    }
}
