<?php

declare(strict_types=1);

namespace App\Storage\Http;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\Changes;
use App\Ledger\Findings\FindingState;
use App\Ledger\Ledger;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Platform\Models\User;
use App\Storage\Application\CollectStatistics;
use App\Storage\Application\LayoutAudit;
use App\Storage\Application\LayoutList;
use App\Storage\Application\Proposals;
use App\Storage\Application\Settings;
use App\Storage\Application\StatisticsRound;
use App\Storage\Application\TablePage;
use App\Storage\Charts\AreaFigure;
use App\Storage\Http\Requests\CollectStatisticsRequest;
use App\Storage\Http\Requests\ProposeLayoutRequest;
use App\Storage\Http\Requests\SaveRuleRequest;
use App\Telemetry\Workload\EstateReader;
use Fulcrion\Core\Storage\HouseRules;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

final readonly class LayoutController
{
    use ProposesChanges;

    public function __construct(private EstateReader $reader)
    {
    }

    public function index(Request $request): View
    {
        [$clusters, $cluster] = $this->clusters($request);
        $able = $cluster !== null && $this->reader->tells($cluster);
        $trouble = null;
        $layouts = [];
        try {
            $layouts = $able ? $this->reader->outlines($cluster) : [];
        } catch (SourceError $error) {
            $trouble = $error->getMessage();
        }
        $list = new LayoutList(
            $layouts,
            $cluster === null
                ? collect()
                : Finding::waiting()->where('cluster_id', $cluster->id)->where('source', LayoutAudit::SOURCE)->get(),
            $request,
        );

        return view('storage.layout', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'able' => $able,
            'trouble' => $trouble,
            'list' => $list,
            'rules' => HouseRules::all(),
            'figure' => $layouts === [] ? null : AreaFigure::of($list->areas($cluster->slug ?? '')),
        ]);
    }

    public function show(Request $request, #[CurrentUser] User $user, string $slug, string $name, TablePage $page): View
    {
        $cluster = Cluster::named($slug);
        $column = $request->query('column');
        $node = $request->query('node');
        try {
            $data = $page->of(
                $user,
                $cluster,
                $name,
                is_string($column) ? $column : null,
                is_string($node) && ctype_digit($node) ? (int) $node : null,
            );
        } catch (SourceError $error) {
            abort(503, $error->getMessage());
        }

        return view('storage.layout-table', $data ?? abort(404));
    }

    public function advice(string $slug, string $name, TablePage $page): View
    {
        return view('storage.layout-advice', $page->advice(Cluster::named($slug), $name) ?? abort(404));
    }

    public function propose(
        ProposeLayoutRequest $request,
        string $slug,
        string $name,
        Proposals $proposals,
        Changes $changes,
    ): RedirectResponse {
        $data = $request->validated();
        $cluster = Cluster::named($slug);
        abort_unless(isset($this->reader->outlines($cluster)[$name]), 404);

        return $this->proposed(
            $request,
            address('layout.show', [$slug, $name]),
            static fn (User $user): Change => $changes->propose($cluster, null, $proposals->ofKind($cluster, $name, $data['kind']), $user),
        );
    }

    public function proposeFinding(Request $request, Finding $finding, Proposals $proposals, Changes $changes): RedirectResponse
    {
        return $this->proposed(
            $request,
            address('finding.show', $finding->id),
            static fn (User $user): Change => $changes->propose($finding->cluster, $finding, $proposals->ofFinding($finding), $user),
        );
    }

    public function audit(#[CurrentUser] User $user, string $slug, LayoutAudit $audit, Ledger $ledger): RedirectResponse
    {
        $cluster = Cluster::named($slug);
        $ledger->record($user, 'asked for an audit', $cluster->name);
        try {
            $result = $audit->run($cluster);
        } catch (SourceError $error) {
            return redirect(address('layout.index')."?cluster={$slug}")->with('failed', $error->getMessage());
        }

        return redirect(address('layout.index')."?cluster={$slug}")->with(
            $result === null ? 'failed' : 'done',
            $result === null
                ? "{$cluster->name} does not tell how its tables lie."
                : "All tables were checked: {$result['open']} findings, {$result['new']} of them new; {$result['solved']} are solved.",
        );
    }

    public function statistics(
        CollectStatisticsRequest $request,
        #[CurrentUser] User $user,
        string $slug,
        StatisticsRound $round,
        Ledger $ledger,
    ): RedirectResponse {
        $data = $request->validated();
        $cluster = Cluster::named($slug);
        $needed = $round->needed($cluster);
        if ($needed === []) {
            return redirect(address('layout.index')."?cluster={$slug}")->with('failed',
                'No table needs statistics, as far as the last audit knows.');
        }
        $ledger->record($user, 'asked for statistics', $cluster->name, [
            'tables' => implode(', ', $needed),
            'at once' => (int) $data['parallel'],
        ]);
        CollectStatistics::dispatch($cluster->id, (int) $data['parallel'], $user->name);

        return redirect(address('layout.index')."?cluster={$slug}")->with(
            'done',
            'Statistics of '.
                implode(', ', $needed).
                ' are being collected, '.
                $data['parallel'].
                ' at once; their findings go when it is done.',
        );
    }

    public function rules(Request $request, Settings $settings): View
    {
        [$clusters, $cluster] = $this->clusters($request);
        $cluster ??= abort(404);
        [$thresholds, $off] = $settings->of($cluster);

        return view('storage.layout-rules', [
            'clusters' => $clusters,
            'cluster' => $cluster,
            'rules' => HouseRules::all(),
            'thresholds' => $thresholds,
            'off' => $off,
            'counts' => Finding::query()
                ->where('cluster_id', $cluster->id)
                ->whereIn('state', FindingState::waiting())
                ->selectRaw('rule, COUNT(*) AS findings')
                ->groupBy('rule')
                ->pluck('findings', 'rule'),
        ]);
    }

    public function saveRule(
        SaveRuleRequest $request,
        #[CurrentUser] User $user,
        string $slug,
        string $rule,
        Settings $settings,
        Ledger $ledger,
    ): RedirectResponse {
        $cluster = Cluster::named($slug);
        $house = HouseRules::all()[$rule] ?? abort(404);
        $data = $request->validated();
        $values = array_map(floatval(...), (array) ($data['thresholds'] ?? []));
        $settings->keep($cluster, $rule, $values, $request->boolean('off'));
        $ledger->record(
            $user,
            'changed a house rule',
            $rule,
            ['cluster' => $cluster->slug, 'off' => $request->boolean('off')] + $values,
        );

        return redirect(address('layout.rules')."?cluster={$slug}#{$rule}")->with(
            'done',
            "The rule \"{$house->title()}\" is changed for {$cluster->name}; the next audit goes by it.",
        );
    }

    public function rule(string $rule): View
    {
        return view('storage.layout-rule', ['rule' => HouseRules::all()[$rule] ?? abort(404)]);
    }

    /**
     * @return array{list<Cluster>, Cluster|null} all, production first; the one asked for
     */
    private function clusters(Request $request): array
    {
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::productionFirst()->get()->all();
        foreach ($clusters as $cluster) {
            if ($cluster->slug === $request->query('cluster')) {
                return [$clusters, $cluster];
            }
        }

        return [$clusters, $clusters[0] ?? null];
    }
}
