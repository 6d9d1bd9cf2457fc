<?php

declare(strict_types=1);

namespace App\Clusters\Http;

use App\Clusters\Http\Requests\AddClusterRequest;
use App\Clusters\Http\Requests\AddTokenRequest;
use App\Clusters\Http\Requests\SaveClusterRequest;
use App\Estate\ClusterRemoval;
use App\Estate\Connectors\Connection;
use App\Estate\Connectors\WatchingCost;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Journal;
use App\Platform\Support\Reachable;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Text\Parts;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;

final readonly class ClusterController
{
    public function __construct(private Connection $connection, private Journal $journal)
    {
    }

    public function index(): View
    {
        $clusters = Cluster::productionFirst()->get();
        $seen = DB::table('statement_presence')
            ->groupBy('cluster_id')
            ->get(['cluster_id', DB::raw('COUNT(*) AS statements'), DB::raw('MAX(last_us) AS last_us')])
            ->keyBy('cluster_id');

        return view('clusters.clusters', ['clusters' => $clusters, 'seen' => $seen]);
    }

    public function create(): View
    {
        return view('clusters.cluster-new');
    }

    public function store(AddClusterRequest $request): RedirectResponse
    {
        $data = $request->validated();
        $trouble = self::unreachable($data['host'] ?? null);
        if ($trouble !== null) {
            return back()
                ->withInput($request->except('secret'))
                ->withErrors(['host' => $trouble]);
        }
        $slug = Parts::first(Str::slug($data['name']), 'cluster');
        $free = $slug;
        for ($i = 2; Cluster::query()->where('slug', $free)->exists(); $i++) {
            $free = "{$slug}-{$i}";
        }
        $cluster = Cluster::query()->create([...$data, 'slug' => $free, 'dialect' => $data['dialect'] ?? Dialect::MariaDb->value]);
        $this->journal->record(self::actor($request), 'added a cluster', $cluster->name, [
            'connector' => $cluster->connector,
            'host' => $cluster->host,
        ]);

        return redirect(address('cluster.edit', $cluster->slug))->with(
            'done',
            $cluster->isLive()
                ? "{$cluster->name} is added. Check the connection below."
                : "{$cluster->name} is added. Import files for it, or make a token and send them.",
        );
    }

    public function edit(Cluster $cluster): View
    {
        return view('clusters.cluster', [
            'cluster' => $cluster,
            'problems' => session('problems'),
            'token' => session('token'),
            'watching' => $cluster->isLive() ? WatchingCost::lately($cluster) : null,
            'tokens' => $cluster->tokens()->orderByDesc('id')->get(),
        ]);
    }

    public function update(SaveClusterRequest $request, Cluster $cluster): RedirectResponse
    {
        $data = $request->validated();
        $trouble = self::unreachable($data['host'] ?? null);
        if ($trouble !== null) {
            return back()
                ->withInput($request->except('secret'))
                ->withErrors(['host' => $trouble]);
        }
        foreach (['secret', 'ender_secret'] as $password) {
            // Left empty it stays what it is.
            if (($data[$password] ?? '') === '') {
                unset($data[$password]);
            }
        }
        $cluster->update($data + ['paused' => false] + ($cluster->isLive() && ! $cluster->is_own ? ['tls' => false] : []));
        $this->journal->record(self::actor($request), 'changed a cluster', $cluster->name, [
            'fields' => implode(', ', array_diff(array_keys($cluster->getChanges()), ['updated_at', 'secret', 'ender_secret'])),
            'password changed' => isset($data['secret']),
        ]);

        return redirect(address('cluster.edit', $cluster->slug))->with('done', 'Saved.');
    }

    public function check(Cluster $cluster): RedirectResponse
    {
        return redirect(address('cluster.edit', $cluster->slug).'#check')->with('problems', $this->connection->check($cluster));
    }

    public function addToken(AddTokenRequest $request, Cluster $cluster): RedirectResponse
    {
        $data = $request->validated();
        $may = $data['may'] ?? 'executions:write';
        $token = $cluster->createToken($data['token_name'], [$may])->plainTextToken;
        $this->journal->record(self::actor($request), 'made a token', $cluster->name, ['token' => $data['token_name'], 'may' => $may]);

        return redirect(address('cluster.edit', $cluster->slug).'#tokens')->with('token', $token);
    }

    public function revokeToken(Request $request, Cluster $cluster, int $token): RedirectResponse
    {
        $found = $cluster->tokens()->whereKey($token)->firstOrFail();
        $name = (string) $found->getAttribute('name');
        $found->delete();
        $this->journal->record(self::actor($request), 'revoked a token', $cluster->name, ['token' => $name]);

        return redirect(address('cluster.edit', $cluster->slug).'#tokens')->with('done', "The token \"{$name}\" no longer works.");
    }

    public function remove(Request $request, Cluster $cluster, ClusterRemoval $removal): RedirectResponse
    {
        abort_if($cluster->is_own, 403, 'The own store cannot be removed; pause it instead.');
        if ($request->input('confirm') !== $cluster->name) {
            return redirect(address('cluster.edit', $cluster->slug).'#remove')->with(
                'failed',
                "Nothing was removed. Type the name {$cluster->name} to confirm.",
            );
        }
        $removal->remove($cluster);
        $this->journal->record(self::actor($request), 'removed a cluster', $cluster->name);

        return redirect(address('cluster.index'))->with(
            'done',
            "{$cluster->name} and its telemetry are removed; changes and proofs made of it stay in the ledger. The watched server "
                .'itself was not touched.',
        );
    }

    /** Why a host may not be called; null where it may. */
    private static function unreachable(?string $host): ?string
    {
        return $host === null ? null : Reachable::configured()->refusal($host);
    }

    private static function actor(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }
}
