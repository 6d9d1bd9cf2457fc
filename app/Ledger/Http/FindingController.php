<?php

declare(strict_types=1);

namespace App\Ledger\Http;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Causes;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingState;
use App\Ledger\Findings\Worth;
use App\Ledger\Http\Requests\DismissFindingRequest;
use App\Ledger\Models\Finding;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Export;
use App\Platform\Support\MomentStyle;
use DateTimeImmutable;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Gate;
use Symfony\Component\HttpFoundation\StreamedResponse;

final readonly class FindingController
{
    public function __construct(private Findings $findings, private Causes $causes)
    {
    }

    public function index(Request $request): View
    {
        $query = $this->filtered($request);
        $findings = (clone $query)->with('cluster')->simplePaginate(50)->withQueryString();

        return view('ledger.findings', [
            'findings' => $findings,
            'causes' => $this->causes->of($findings->items()),
            'count' => $query->count(),
            'clusters' => Cluster::query()->orderBy('id')->get(),
            'rules' => Finding::query()->distinct()->orderBy('rule')->pluck('rule'),
            'weightUs' => Finding::waitingQueryUs(),
            'open' => Finding::query()
                ->whereIn('state', FindingState::waiting())
                ->count(),
        ]);
    }

    public function export(Request $request, string $format, Worth $worth): StreamedResponse
    {
        $rows = (function () use ($request, $worth) {
            foreach ($this->filtered($request)->with('cluster')->lazy(500) as $finding) {
                assert($finding instanceof Finding);
                yield [
                    'id' => $finding->id,
                    'cluster' => $finding->cluster->slug,
                    'rule' => $finding->rule,
                    'object' => $finding->object,
                    'state' => $finding->state->value,
                    'problem' => $finding->problem,
                    'weight' => (int) $finding->weight,
                    'weight_unit' => $finding->weight_unit->field(),
                    'per_month' => (string) $worth->ofFinding($finding),
                    'currency' => $worth->currency($finding->cluster),
                    'spare_bytes' => (int) $finding->spare_bytes,
                    'first_at' => gmdate('c', intdiv($finding->first_us, 1_000_000)),
                    'last_at' => gmdate('c', intdiv($finding->last_us, 1_000_000)),
                    'reason' => $finding->reason,
                ];
            }
        })();

        return Export::table($format, 'findings', $rows);
    }

    public function show(Finding $finding): View
    {
        return view('ledger.finding', [
            'finding' => $finding->load('cluster'),
            'cause' => $this->causes->of([$finding])[$finding->id] ?? null,
            'explains' => $this->causes->explainedBy($finding),
            'changes' => $finding->changes()->orderByDesc('id')->get(),
        ]);
    }

    public function accept(#[CurrentUser] User $user, Finding $finding): RedirectResponse
    {
        Gate::authorize('decide', $finding);
        $this->findings->accept($finding, $user);

        return redirect(address('finding.show', $finding->id))->with('done', 'Accepted: somebody is on it.');
    }

    public function dismiss(DismissFindingRequest $request, #[CurrentUser] User $user, Finding $finding): RedirectResponse
    {
        $data = $request->validated();
        $until = new DateTimeImmutable($data['until'].' 00:00:00', $user->zone());
        if ($until->getTimestamp() <= Clock::seconds()) {
            return back()
                ->withInput()
                ->withErrors(['until' => 'This day is over already; choose a later one.']);
        }
        $this->findings->dismiss($finding, $user, trim($data['reason']), $until);

        return redirect(address('finding.show', $finding->id))->with(
            'done',
            'Dismissed until '.moment($until, MomentStyle::Day, $until->getTimezone()).'.',
        );
    }

    public function reopen(#[CurrentUser] User $user, Finding $finding): RedirectResponse
    {
        Gate::authorize('decide', $finding);
        $this->findings->reopen($finding, $user);

        return redirect(address('finding.show', $finding->id))->with('done', 'Open again.');
    }

    /**
     * @return Builder<Finding>
     */
    private function filtered(Request $request): Builder
    {
        $text = static fn (string $name): string => is_string($request->query($name)) ? mb_substr($request->query($name), 0, 200) : '';
        $state = $text('state') === '' ? 'waiting' : $text('state');

        $query = Finding::query();
        $query
            ->when($state === 'waiting', static fn (Builder $q) => $q->whereIn('state', FindingState::waiting()))
            ->when(FindingState::tryFrom($state) !== null, static fn (Builder $q) => $q->where('state', $state))
            ->when($text('rule') !== '', static fn (Builder $q) => $q->where('rule', $text('rule')))
            ->when(
                $text('cluster') !== '',
                static fn (Builder $q) => $q->whereIn('cluster_id', Cluster::query()->where('slug', $text('cluster'))->pluck('id')),
            )
            ->when(
                $text('words') !== '',
                static fn (Builder $q) => $q->where(
                    static fn (Builder $q) => $q
                        ->where('object', 'like', '%'.addcslashes($text('words'), '%_\\').'%')
                        ->orWhere('problem', 'like', '%'.addcslashes($text('words'), '%_\\').'%'),
                ),
            );

        return Finding::heaviestFirst($query);
    }
}
