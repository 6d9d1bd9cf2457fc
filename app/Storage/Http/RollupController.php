<?php

declare(strict_types=1);

namespace App\Storage\Http;

use App\Estate\Authorization\Clusters;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Estate\Rollups\LookupState;
use App\Estate\Rollups\RollupState;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\ChosenStatements;
use App\Ledger\Changes\Inverse;
use App\Ledger\Changes\Proposal;
use App\Ledger\Changes\Refused;
use App\Ledger\Ledger;
use App\Ledger\Models\Change;
use App\Platform\Models\User;
use App\Storage\Application\Proposals;
use App\Storage\Application\Refresher;
use App\Storage\Application\RollupPage;
use App\Storage\Http\Requests\DropRollupRequest;
use App\Storage\Http\Requests\ProposeRollupsRequest;
use App\Storage\Http\Requests\RefreshRollupRequest;
use App\Telemetry\Workload\EstateReader;
use Fulcrion\Core\Storage\TableChangeKind;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

final readonly class RollupController
{
    use ProposesChanges;

    public function __construct(private Clusters $clusters)
    {
    }

    public function index(Request $request, EstateReader $reader): View
    {
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::productionFirst()->where('connector', 'practice')->get()->all();
        $cluster = $clusters[0] ?? null;
        foreach ($clusters as $each) {
            $cluster = $each->slug === $request->query('cluster') ? $each : $cluster;
        }
        $page = $trouble = null;
        $table = $request->query('table');
        $space = $request->query('space');
        $maintenance = $request->query('maintenance');
        $keepUs = is_string($maintenance) && is_numeric($maintenance) && $maintenance > 0 ? (float) $maintenance * 60e6 : INF;
        try {
            $page =
                $cluster === null
                    ? null
                    : RollupPage::of(
                        $cluster,
                        $this->clusters,
                        $reader,
                        is_string($table) ? $table : null,
                        is_string($space) && is_numeric($space) ? max(0.0, (float) $space) * 1_048_576 : null,
                        $keepUs,
                    );
        } catch (SourceError $error) {
            $trouble = $error->getMessage();
        }

        return view('storage.rollups', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'page' => $page,
            'trouble' => $trouble,
            'maintenance' => is_finite($keepUs) ? $keepUs / 60e6 : null,
        ]);
    }

    public function rollups(
        ProposeRollupsRequest $request,
        string $slug,
        string $name,
        Proposals $proposals,
        Changes $changes,
    ): RedirectResponse {
        $data = $request->validated();
        $cluster = $this->cluster($slug);

        return $this->proposed(
            $request,
            address('rollup.index')."?cluster={$slug}&table={$name}",
            static fn (User $user): Change => $changes->propose(
                $cluster,
                null,
                $proposals->ofRollups($cluster, $name, (float) $data['space'], array_values($data['rollups'])),
                $user,
            ),
        );
    }

    public function lookup(Request $request, string $slug, string $name, Proposals $proposals, Changes $changes): RedirectResponse
    {
        $cluster = $this->cluster($slug);

        return $this->proposed(
            $request,
            address('rollup.index')."?cluster={$slug}",
            static fn (User $user): Change => $changes->propose($cluster, null, $proposals->ofLookup($cluster, $name), $user),
        );
    }

    /** Proposes that a rollup or lookup goes; what that costs is rehearsed like any change. */
    public function drop(DropRollupRequest $request, string $slug, EstateReader $reader, Changes $changes): RedirectResponse
    {
        $data = $request->validated();
        $cluster = $this->cluster($slug);

        return $this->proposed($request, address('rollup.index')."?cluster={$slug}", function (User $user) use (
            $cluster,
            $data,
            $reader,
            $changes,
        ): Change {
            $one = $this->find($reader, $cluster, $data['name']);
            $saved = $one->since('')['savedUs'];
            $estate = $reader->estate($cluster, $reader->shown($user, $cluster), $one->table);

            return $changes->propose(
                $cluster,
                null,
                new Proposal(
                    $one->table,
                    "Drop {$one->name}",
                    TableChangeKind::Rollups->value,
                    [$one->drop()],
                    Inverse::statements([$one->create()]),
                    0.0,
                    $one->bytes,
                    0.0,
                    0.0,
                    $saved > 0 ? ['What it answered is read from the table again.'] : [],
                    ChosenStatements::byLoad($estate->workload, $one->table),
                ),
                $user,
            );
        });
    }

    public function refresh(
        RefreshRollupRequest $request, #[CurrentUser] User $user,
        string $slug,
        Refresher $refresher,
        EstateReader $reader,
        Ledger $ledger,
    ): RedirectResponse {
        $data = $request->validated();
        $cluster = $this->cluster($slug);
        try {
            $one = $this->find($reader, $cluster, $data['name']);
            $words =
                $one instanceof RollupState
                    ? $refresher->one($cluster, $one)
                    : throw new Refused('A lookup is rebuilt automatically when it is next asked for.');
        } catch (SourceError|Refused $error) {
            return redirect(address('rollup.index')."?cluster={$slug}")->with('failed', $error->getMessage());
        }
        $ledger->record($user, 'refreshed a rollup', $one->name, ['cluster' => $slug]);

        return redirect(address('rollup.index')."?cluster={$slug}")->with('done', $words);
    }

    private function find(EstateReader $reader, Cluster $cluster, string $name): RollupState|LookupState
    {
        return $reader->rollup($cluster, $name) ?? throw new Refused("There is no {$name} any more.");
    }

    private function cluster(string $slug): Cluster
    {
        $cluster = Cluster::query()->where('slug', $slug)->firstOrFail();
        assert($cluster instanceof Cluster);

        return $cluster;
    }
}
