<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Estate\Authorization\Clusters;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Telemetry\Store\PlanStore;
use Fulcrion\Core\Plans\PlanVeil;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Core\Text\Quantity;
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
     * How well it is known by which plans a statement ran. Nothing is said of the time between: where plans are looked up, another one may
     * have come and gone.
     */
    public function known(int $clusterId, string $statement): string
    {
        $plans = DB::table('plans')->where('cluster_id', $clusterId)->where('statement', $statement);
        $count = (clone $plans)->count();
        $take = $this->store->takes($clusterId, [$statement])[$statement] ?? null;
        $looked = $take === null || (int) $take->takes === 0 ? '' : 'Its plan was asked for '.
            ((int) $take->takes === 1 ? 'once' : Quantity::count((int) $take->takes).' times').', last at '.moment((int) $take->last_us);
        $runs = (int) (clone $plans)->sum('executions');
        $untold = $take?->problem === null ? '' : " It cannot be asked for now: {$take->problem}".
            (str_contains($take->problem, 'denied') ? '. Grant SELECT on its tables to the account of the cluster to see it.' : '');

        return match (true) {
            $count === 0 => "No plan of it is kept.{$untold}",
            $count > 1 => "Its plan changed: {$count} are known, the latest since ".moment((int) $plans->orderByDesc('last_us')
                ->value('first_us')).($looked === '' ? '.' : ". {$looked}.").$untold,
            $looked !== '' => "{$looked}, and was the same each time.{$untold}",
            $runs > 0 => ($runs === 1 ? 'The one run whose plan is kept' : 'All '.Quantity::count($runs).' runs whose plan is kept').
                ' went by one plan.',
            default => 'One plan of it is kept, which was not run.',
        };
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
        $words = Parts::between($words, ' ');
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
            ->keyBy('id')
            ->all();
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
