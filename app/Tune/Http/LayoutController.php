<?php

declare(strict_types=1);

namespace App\Tune\Http;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\ChosenStatements;
use App\Ledger\Ledger;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Platform\Models\User;
use App\Tune\Jobs\CollectStatistics;
use App\Tune\Layout\Advisor;
use App\Tune\Layout\Audit;
use App\Tune\Layout\EstateReader;
use App\Tune\Layout\Figures\AreaFigure;
use App\Tune\Layout\Figures\ChunkFigure;
use App\Tune\Layout\Figures\PlaceFigure;
use App\Tune\Layout\LayoutList;
use App\Tune\Layout\Proposals;
use App\Tune\Layout\Settings;
use App\Tune\Layout\StatisticsRound;
use App\Tune\Models\UpkeepPlan;
use Fulcrion\Core\Layout\Chunk;
use Fulcrion\Core\Layout\ChunkIndex;
use Fulcrion\Core\Layout\ClusteringAdvisor;
use Fulcrion\Core\Layout\HouseRules;
use Fulcrion\Core\Layout\Overlap;
use Fulcrion\Core\Layout\TableLayout;
use Fulcrion\Core\Layout\Trial;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

final readonly class LayoutController
{
    use ProposesChanges;

    public function __construct(private EstateReader $reader)
    {
    }

    public function index(Request $request): View
    {
        [$clusters, $cluster] = $this->clusters($request);
        $able = $cluster !== null && $this->reader->source($cluster) !== null;
        $trouble = null;
        $layouts = [];
        try {
            $layouts = $able ? $this->reader->layouts($cluster) : [];
        } catch (SourceError $error) {
            $trouble = $error->getMessage();
        }
        $list = new LayoutList($layouts, $cluster === null ? collect() : Finding::waiting()->where('cluster_id', $cluster->id)->where('bench', Audit::BENCH)->get(), $request);

        return view('tune.layout', [
            'clusters' => $clusters, 'cluster' => $cluster, 'able' => $able, 'trouble' => $trouble, 'list' => $list, 'rules' => HouseRules::all(),
            'figure' => $layouts === [] ? null : AreaFigure::of($list->areas((string) $cluster->slug)),
        ]);
    }

    public function show(Request $request, string $slug, string $name): View
    {
        [$cluster, $layouts, $table] = $this->find($slug, $name);
        $table = $this->reader->source($cluster)?->layout($name) ?? $table;
        $layouts[$name] = $table;
        $estate = $this->reader->estate($cluster, $layouts, $name);
        $columns = array_map(static fn ($column): string => $column->name, $table->definition->columns);
        $uses = $estate->workload->columns($name);
        $filtered = array_keys(array_filter($uses, static fn (array $one): bool => $one['filter'] > 0));
        $default = $table->definition->clustering[0] ?? $this->mostFiltered($uses) ?? $table->definition->partitioning->column ?? $columns[0];
        $column = in_array($request->query('column'), $columns, true) ? (string) $request->query('column') : $default;
        $node = $request->query('node');
        $node = is_string($node) && ctype_digit($node) && $node >= 1 && $node <= $table->nodes ? (int) $node - 1 : null;
        $overlap = Overlap::of($table, $column, $node);
        $asked = (new ClusteringAdvisor($estate))->asked($table);

        return view('tune.layout-table', [
            'cluster' => $cluster, 'table' => $table, 'estate' => $estate, 'uses' => $uses, 'filtered' => $filtered, 'column' => $column, 'node' => $node, 'overlap' => $overlap,
            'share' => $asked === [] ? null : Trial::share($estate->reads($table)->index(), $asked),
            'findings' => Finding::query()->where('cluster_id', $cluster->id)->where(static fn ($query) => $query->where('object', $name)->orWhere('object', 'like', addcslashes($name, '%_\\').'#%'))->orderByRaw("state IN ('open', 'accepted') DESC")->orderByDesc('act')->orderByDesc('weight_us')->get(),
            'changes' => Change::query()->where('cluster_id', $cluster->id)->where('object', $name)->orderByDesc('id')->limit(10)->get(),
            'chunkFigure' => $table->chunks === [] ? null : ChunkFigure::of($table, $column, $overlap),
            'nodeFigure' => $table->nodes > 1 && $table->chunks !== [] ? PlaceFigure::nodes($table) : null,
            'partitionFigure' => $table->definition->partitioning === null || $table->chunks === [] ? null : PlaceFigure::partitions($table, $this->partitionShare($table, $asked)),
            'statements' => ChosenStatements::candidates($estate->workload, $name),
            'texts' => DB::table('statements')->whereIn('fingerprint', array_map(static fn ($s): string => $s->id, array_slice($estate->workload->touching($name)->statements, 0, 400)))->pluck('text', 'fingerprint'),
            'upkeep' => UpkeepPlan::query()->where('cluster_id', $cluster->id)->where('object', $name)->first(),
        ]);
    }

    public function advice(string $slug, string $name, Advisor $advisor): View
    {
        [$cluster, $layouts, $table] = $this->find($slug, $name);
        try {
            $source = $this->reader->source($cluster);
            $advice = $source === null ? [] : $advisor->all($source, $this->reader->estate($cluster, $layouts), $table);
            $trouble = null;
        } catch (SourceError $error) {
            [$advice, $trouble] = [[], $error->getMessage()];
        }

        return view('tune.layout-advice', ['cluster' => $cluster, 'table' => $table, 'advice' => $advice, 'trouble' => $trouble]);
    }

    public function propose(Request $request, string $slug, string $name, Proposals $proposals, Changes $changes): RedirectResponse
    {
        $data = $request->validate(['kind' => ['required', 'in:together,compaction,clustering,partitions,distribution,statistics']]);
        [$cluster] = $this->find($slug, $name);

        return $this->proposed($request, "/tune/layout/{$slug}/{$name}", static fn (User $user): Change => $changes->propose($cluster, null, $proposals->ofKind($cluster, $name, $data['kind']), $user));
    }

    public function proposeFinding(Request $request, Finding $finding, Proposals $proposals, Changes $changes): RedirectResponse
    {
        return $this->proposed($request, "/ledger/findings/{$finding->id}", static fn (User $user): Change => $changes->propose($finding->cluster, $finding, $proposals->ofFinding($finding), $user));
    }

    public function audit(Request $request, string $slug, Audit $audit, Ledger $ledger): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $slug)->firstOrFail();
        assert($cluster instanceof Cluster);
        $user = $request->user();
        assert($user instanceof User);
        $ledger->record($user, 'asked for an audit', $cluster->name);
        try {
            $result = $audit->run($cluster);
        } catch (SourceError $error) {
            return redirect("/tune/layout?cluster={$slug}")->with('failed', $error->getMessage());
        }

        return redirect("/tune/layout?cluster={$slug}")->with($result === null ? 'failed' : 'done', $result === null
            ? "{$cluster->name} does not tell how its tables lie."
            : "All tables were checked: {$result['open']} findings, {$result['new']} of them new; {$result['solved']} are solved.");
    }

    public function statistics(Request $request, string $slug, StatisticsRound $round, Ledger $ledger): RedirectResponse
    {
        $data = $request->validate(['parallel' => ['required', 'integer', 'between:1,8']], ['parallel.*' => 'Between 1 and 8 tables can be collected at once.']);
        $cluster = Cluster::query()->where('slug', $slug)->firstOrFail();
        assert($cluster instanceof Cluster);
        $user = $request->user();
        assert($user instanceof User);
        $needed = $round->needed($cluster);
        if ($needed === []) {
            return redirect("/tune/layout?cluster={$slug}")->with('failed', 'No table needs statistics, as far as the last audit knows.');
        }
        $ledger->record($user, 'asked for statistics', $cluster->name, ['tables' => implode(', ', $needed), 'at once' => (int) $data['parallel']]);
        CollectStatistics::dispatch($cluster->id, (int) $data['parallel'], $user->name);

        return redirect("/tune/layout?cluster={$slug}")->with('done', 'Statistics of '.implode(', ', $needed).' are being collected, '.$data['parallel'].' at once; their findings go when it is done.');
    }

    public function rules(Request $request, Settings $settings): View
    {
        [$clusters, $cluster] = $this->clusters($request);
        abort_if($cluster === null, 404);
        [$thresholds, $off] = $settings->of($cluster);

        return view('tune.layout-rules', ['clusters' => $clusters, 'cluster' => $cluster, 'rules' => HouseRules::all(), 'thresholds' => $thresholds, 'off' => $off,
            'counts' => Finding::query()->where('cluster_id', $cluster->id)->whereIn('state', ['open', 'accepted'])->selectRaw('rule, COUNT(*) AS findings')->groupBy('rule')->pluck('findings', 'rule')]);
    }

    public function saveRule(Request $request, string $slug, string $rule, Settings $settings, Ledger $ledger): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $slug)->firstOrFail();
        assert($cluster instanceof Cluster);
        $house = HouseRules::all()[$rule] ?? abort(404);
        $checks = ['off' => ['nullable', 'boolean']];
        foreach ($house->thresholds() as $name => $_) {
            $checks["thresholds.{$name}"] = ['required', 'numeric', 'min:0', 'max:1000000000000'];
        }
        $data = $request->validate($checks, ['required' => 'A threshold is missing; every one needs a number.', 'numeric' => 'A threshold needs a number, 0 or more.', 'min' => 'A threshold cannot be below 0.', 'max' => 'This threshold is beyond anything a table can have.']);
        $values = array_map(floatval(...), (array) ($data['thresholds'] ?? []));
        $settings->keep($cluster, $rule, $values, $request->boolean('off'));
        $user = $request->user();
        assert($user instanceof User);
        $ledger->record($user, 'changed a house rule', $rule, ['cluster' => $cluster->slug, 'off' => $request->boolean('off')] + $values);

        return redirect("/tune/layout/rules?cluster={$slug}#{$rule}")->with('done', "The rule \"{$house->title()}\" is changed for {$cluster->name}; the next audit goes by it.");
    }

    public function rule(string $rule): View
    {
        return view('tune.layout-rule', ['rule' => HouseRules::all()[$rule] ?? abort(404)]);
    }

    /**
     * @return array{list<Cluster>, Cluster|null} all, production first; the one asked for
     */
    private function clusters(Request $request): array
    {
        /** @var list<Cluster> $clusters */
        $clusters = Cluster::query()->orderByRaw("role = 'production' DESC")->orderBy('id')->get()->all();
        foreach ($clusters as $cluster) {
            if ($cluster->slug === $request->query('cluster')) {
                return [$clusters, $cluster];
            }
        }

        return [$clusters, $clusters[0] ?? null];
    }

    /**
     * @return array{Cluster, array<string, TableLayout>, TableLayout}
     */
    private function find(string $slug, string $name): array
    {
        $cluster = Cluster::query()->where('slug', $slug)->first() ?? abort(404);
        assert($cluster instanceof Cluster);
        try {
            $layouts = $this->reader->layouts($cluster);
        } catch (SourceError $error) {
            abort(503, $error->getMessage());
        }

        return [$cluster, $layouts, $layouts[$name] ?? abort(404)];
    }

    /**
     * @param  array<string, array{filter: float, join: float, group: float, read: float, wrapped: float, durationUs: float}>  $uses
     */
    private function mostFiltered(array $uses): ?string
    {
        $best = null;
        foreach ($uses as $name => $one) {
            $best = $one['filter'] > ($best === null ? 0 : $uses[$best]['filter']) ? (string) $name : $best;
        }

        return $best;
    }

    /**
     * @param  list<array{weight: float, predicates: list<\Fulcrion\Core\Layout\Predicate>}>  $asked
     */
    private function partitionShare(TableLayout $table, array $asked): ?float
    {
        $column = $table->definition->partitioning->column ?? '';
        $number = $table->definition->index($column);
        $asked = array_values(array_filter(array_map(static fn (array $one): array => ['weight' => $one['weight'], 'predicates' => array_values(array_filter($one['predicates'], static fn ($p): bool => $p->column === $column))], $asked), static fn (array $one): bool => $one['predicates'] !== []));
        if ($asked === []) {
            return null;
        }
        $byPartition = [];
        foreach ($table->chunks as $chunk) {
            $byPartition[$chunk->partition][] = $chunk;
        }
        $zones = $sizes = [];
        foreach ($byPartition as $chunks) {
            $values = array_merge(...array_map(static fn (Chunk $c): array => $c->zones[$number]->min === null ? [] : [$c->zones[$number]->min, $c->zones[$number]->max], $chunks));
            usort($values, static fn ($a, $b): int => $a <=> $b);
            $rows = array_sum(array_map(static fn (Chunk $c): int => $c->rows, $chunks));
            $zones[] = [new \Fulcrion\Core\Catalog\ZoneMap($values[0] ?? null, $values[count($values) - 1] ?? null, $values === [] ? $rows : 0, $rows, 0)];
            $sizes[] = $rows;
        }

        return Trial::share(new ChunkIndex($zones, $sizes, [$column]), $asked);
    }
}
