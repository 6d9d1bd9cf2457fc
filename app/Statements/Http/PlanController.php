<?php

declare(strict_types=1);

namespace App\Statements\Http;

use App\Estate\Authorization\Clusters;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Statements\Application\PlanDifference;
use App\Statements\Application\PlanMask;
use App\Statements\Application\Plans;
use App\Statements\Application\StoredPlan;
use App\Statements\Charts\PlanFigure;
use App\Statements\Http\Requests\MakePlanRequest;
use App\Statements\Http\Requests\SendPlanRequest;
use App\Telemetry\Store\KnownStatements;
use App\Telemetry\Store\PlanStore;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanError;
use Fulcrion\Core\Plans\PlanRules;
use Fulcrion\Core\Sql\Aliases;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Text\Parts;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;

final readonly class PlanController
{
    private const STYLE =
        '.flow{fill:#E3BE86}.flow.guessed{fill:#F1EBDF;stroke:#8f8574}.expected{fill:none;stroke:#22303C;stroke-dasharray:4 '
            .'3}.expected.off{stroke:#9E3439;stroke-width:1.6}.gate{stroke:#22303C}.source{stroke:#22303C;stroke-width:2}'.
        '.t0{fill:#fff}.t1{fill:#F0DFC0}.t2{fill:#E3BE86}.t3{fill:#CF9650}.t4{fill:#B06F2A}.t5{fill:#7E4A17}.t6{fill:#53300F}.tick{fill:#'
            .'5A666E;font:11.5px sans-serif}.tick.strong{fill:#22303C;font-weight:600}';

    public function __construct(private Plans $plans)
    {
    }

    public function index(Request $request): View
    {
        $cluster = Cluster::query()->where('slug', $request->query('cluster'))->first();
        $words = mb_substr($request->query->getString('words'), 0, 200);

        return view('statements.plans', [
            'plans' => $this->plans->list($cluster?->id, $words, 200),
            'cluster' => $cluster,
            'words' => $words,
            'clusters' => Cluster::query()->orderBy('id')->get(),
        ]);
    }

    public function show(Request $request, #[CurrentUser] User $user, int $id): View
    {
        [$stored, $plan, $masked] = $this->open($request, $user, $id);
        $others = array_values(
            array_filter(
                $this->plans->of($stored->clusterId, $stored->statement, $user),
                static fn (StoredPlan $other): bool => $other->id !== $stored->id,
            ),
        );

        return view('statements.plan', [
            'stored' => $stored,
            'plan' => $plan,
            'masked' => $masked,
            'others' => $others,
            'cluster' => Cluster::query()->findOrFail($stored->clusterId),
            'findings' => (new PlanRules())->check($plan),
            'figure' => new PlanFigure($plan),
        ]);
    }

    public function compare(Request $request, #[CurrentUser] User $user): View
    {
        [$first, $a] = $this->open($request, $user, (int) $request->query('first'));
        [$second, $b] = $this->open($request, $user, (int) $request->query('second'));

        return view('statements.plan-compare', [
            'first' => $first,
            'second' => $second,
            'a' => $a,
            'b' => $b,
            'rows' => PlanDifference::of($a, $b),
            'clusters' => Cluster::query()->pluck('name', 'id'),
        ]);
    }

    public function svg(Request $request, #[CurrentUser] User $user, int $id): Response
    {
        [, $plan] = $this->open($request, $user, $id);
        $svg = (new PlanFigure($plan, address('plan.show', $id)))->svg();
        $svg = (string) preg_replace(
            '~<svg [^>]*viewBox="0 0 (\d+) (\d+)"[^>]*>~',
            '$0<style>'.self::STYLE.'</style><rect width="$1" height="$2" fill="#FAF7F1"/>',
            $svg,
            1,
        );

        return response($svg, 200, ['Content-Type' => 'image/svg+xml', 'Content-Disposition' => "attachment; filename=\"plan-{$id}.svg\""]);
    }

    public function json(Request $request, #[CurrentUser] User $user, int $id): Response
    {
        [, $plan] = $this->open($request, $user, $id);

        return response($plan->toJson()."\n", 200, [
            'Content-Type' => 'application/json',
            'Content-Disposition' => "attachment; filename=\"plan-{$id}.json\"",
        ]);
    }

    public function store(SendPlanRequest $request, PlanStore $store): RedirectResponse
    {
        $data = $request->validated();
        $cluster = Cluster::query()->where('slug', $data['cluster'])->firstOrFail();
        $json = $request->hasFile('file') ? (string) upload($request)->get() : (string) ($data['json'] ?? '');
        try {
            $plan = Plan::read($json);
        } catch (PlanError $error) {
            return back()
                ->withInput()
                ->withErrors(['file' => $error->getMessage().' Nothing was kept.']);
        }
        $sql = Parts::first(trim((string) ($data['sql'] ?? '')), $plan->statement);
        $statement = $sql === '' ? hash('xxh128', $json) : (new Fingerprinter($cluster->dialect))->of($sql)->id;
        $plan = $plan->named(Aliases::of($sql, $cluster->dialect), $sql);

        return redirect(address('plan.show', $store->keep($cluster->id, $statement, $plan, Clock::microseconds())))->with(
            'done',
            'The plan is read.',
        );
    }

    /** The plan of a statement of a live server or practice cluster, with the values of its latest sample. */
    public function ofStatement(
        MakePlanRequest $request, #[CurrentUser] User $user,
        string $fingerprint,
        KnownStatements $known,
        Clusters $clusters,
        PlanStore $store,
        Ledger $ledger,
    ): RedirectResponse {
        $data = $request->validated();
        $cluster = Cluster::query()->where('slug', $data['cluster'])->firstOrFail();
        $statement = $known->find($fingerprint, $cluster->id) ?? abort(404);
        $back = address('statement.show', $fingerprint)."?cluster={$cluster->slug}#plans";
        $runner = $clusters->for($user, 'plan')->runner($cluster);
        if ($runner === null) {
            return redirect($back)->with(
                'failed',
                "{$cluster->name} is known from files only, so it cannot be asked for a plan. Import one on the page Plans.",
            );
        }
        $sample = $known->latestSample($cluster->id, $statement->id);
        if ($sample === null) {
            return redirect($back)->with(
                'failed',
                'No sample of this statement is kept, so there are no values to plan it with. Rehearse it and put values in place of '
                    .'the marks.',
            );
        }
        $ledger->record($user, $data['mode'] === 'actual' ? 'ran a sample for its plan' : 'asked for a plan', "statement {$fingerprint}", [
            'cluster' => $cluster->slug,
        ]);
        try {
            $plan = $runner->plan((string) $sample['sql'], (string) ($sample['database'] ?? ''), $data['mode'] === 'actual')->plan;
            assert($plan !== null);
        } catch (SourceError $error) {
            return redirect($back)->with('failed', "{$cluster->name} gave no plan: {$error->getMessage()}");
        }

        return redirect(address('plan.show', $store->keepOf($cluster, (string) $sample['sql'], $plan, 1)));
    }

    /**
     * @return array{StoredPlan, Plan, bool} as kept, as this person may see it, whether literals are hidden
     */
    private function open(Request $request, User $user, int $id): array
    {
        $stored = $this->plans->find($id, $user) ?? abort(404);
        $revealed = $request->session()->get("plan literals {$id}") === true;

        return [$stored, $revealed ? $stored->plan : (new PlanMask())->mask($stored->plan), ! $revealed];
    }

    /** Shows the literals of a plan for the rest of the session, and writes down that it did. */
    public function reveal(Request $request, #[CurrentUser] User $user, int $id, Ledger $ledger): RedirectResponse
    {
        $stored = $this->plans->find($id, $user) ?? abort(404);
        $ledger->record($user, 'revealed literals', "statement {$stored->statement}", ['plan' => $id, 'for' => 'plan']);
        $request->session()->put("plan literals {$id}", true);

        return redirect(address('plan.show', $id));
    }
}
