<?php

declare(strict_types=1);

namespace App\Tuning\Http;

use App\Estate\Authorization\Clusters;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\Refused;
use App\Ledger\Models\Change;
use App\Platform\Models\User;
use App\Telemetry\Workload\WorkloadReader;
use App\Tuning\Application\IndexExecutor;
use App\Tuning\Application\IndexPage;
use App\Tuning\Http\Requests\ProposeIndexRequest;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/**
 * Indexes of live servers.
 */
final readonly class IndexController
{
    public function __construct(private Clusters $clusters, private WorkloadReader $workload)
    {
    }

    public function index(Request $request): View
    {
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::query()->where('connector', 'mariadb')->orderByDesc('is_own')->orderBy('id')->get()->all();
        $cluster = $clusters[0] ?? null;
        foreach ($clusters as $each) {
            $cluster = $each->slug === $request->query('cluster') ? $each : $cluster;
        }
        $page = $trouble = null;
        try {
            $page = $cluster === null ? null : IndexPage::of($cluster, $this->clusters, $this->workload);
        } catch (SourceError $error) {
            $trouble = $error->getMessage();
        }

        return view('tuning.indexes', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'page' => $page,
            'trouble' => $trouble,
            'changes' => $cluster === null
                    ? collect()
                    : Change::query()
                        ->where('cluster_id', $cluster->id)
                        ->where('kind', IndexExecutor::KIND)
                        ->orderByDesc('id')
                        ->limit(10)
                        ->get(),
        ]);
    }

    public function propose(ProposeIndexRequest $request, #[CurrentUser] User $user, string $slug, Changes $changes): RedirectResponse
    {
        $data = $request->validated();
        $cluster = Cluster::query()->where('slug', $slug)->firstOrFail();
        assert($cluster instanceof Cluster);
        try {
            $change = $changes->propose(
                $cluster,
                null,
                IndexPage::of($cluster, $this->clusters, $this->workload)->proposal($data['table'], $data['index']),
                $user,
            );
        } catch (Refused|SourceError $error) {
            return redirect(address('index.index')."?cluster={$slug}")->with('failed', $error->getMessage());
        }

        return redirect(address('change.show', $change->id))->with(
            'done',
            'The change is proposed. Nothing was touched; try it on a copy next.',
        );
    }
}
