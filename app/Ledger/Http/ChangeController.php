<?php

declare(strict_types=1);

namespace App\Ledger\Http;

use App\Estate\Models\Cluster;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Changes\ChosenStatements;
use App\Ledger\Changes\Refused;
use App\Ledger\Findings\Worth;
use App\Ledger\Http\Requests\ChooseStatementsRequest;
use App\Ledger\Models\Change;
use App\Ledger\Proofs\LiveComparison;
use App\Platform\Models\User;
use App\Platform\Support\Export;
use Fulcrion\Core\Storage\StatementUse;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Gate;
use Symfony\Component\HttpFoundation\StreamedResponse;

final readonly class ChangeController
{
    public function __construct(private Changes $changes)
    {
    }

    public function index(Request $request): View
    {
        $query = $this->filtered($request);

        return view('ledger.changes', [
            'changes' => (clone $query)->with('cluster')->simplePaginate(50)->withQueryString(),
            'count' => $query->count(),
            'clusters' => Cluster::query()->orderBy('id')->get(),
        ]);
    }

    public function export(Request $request, string $format, Worth $worth): StreamedResponse
    {
        $time = static fn (?int $us): ?string => $us === null ? null : gmdate('c', intdiv($us, 1_000_000));
        $rows = (function () use ($request, $time, $worth) {
            foreach ($this->filtered($request)->with('cluster')->lazy(500) as $change) {
                assert($change instanceof Change);
                yield [
                    'id' => $change->id,
                    'cluster' => $change->cluster->slug,
                    'object' => $change->object,
                    'title' => $change->title,
                    'kind' => $change->kind,
                    'state' => $change->state->value,
                    'asked_by' => $change->asked_by,
                    'asked_at' => $time($change->asked_us),
                    'approved_by' => $change->approved_by,
                    'approved_at' => $time($change->approved_us),
                    'applied_by' => $change->applied_by,
                    'applied_at' => $time($change->applied_us),
                    'undone_at' => $time($change->undone_us),
                    'expected_saved_us_per_week' => (int) $change->expected['savedUs'],
                    'expected_saved_per_month' => $change->kind()->measured && $change->expected['savedUs'] > 0
                        ? (string) $worth->ofSaved($change->cluster, (float) $change->expected['savedUs']) : '',
                    'currency' => $worth->currency($change->cluster),
                    'error' => $change->error,
                ];
            }
        })();

        return Export::table($format, 'changes', $rows);
    }

    public function show(Request $request, Change $change, ChosenStatements $chosen, LiveComparison $live): View
    {
        $change->load(['cluster', 'finding']);
        if ($request->header('HX-Request') !== null) {
            return view('ledger.change-progress', ['change' => $change]);
        }
        $candidates = [];
        $choosing = $change->state->isOpen();
        if ($choosing) {
            try {
                $candidates = array_slice($chosen->choosable($change), 0, 14);
            } catch (\App\Estate\Connectors\SourceError) {
                $candidates = [];
            }
        }
        $ids = [...array_column($change->workload, 'id'), ...array_map(static fn (StatementUse $s): string => $s->id, $candidates)];

        return view('ledger.change', [
            'change' => $change,
            'candidates' => $candidates,
            'choosing' => $choosing,
            'texts' => DB::table('statements')->whereIn('fingerprint', $ids)->pluck('text', 'fingerprint'),
            'rehearsal' => $change->latestProof('rehearsal'),
            'applied' => $change->latestProof('applied'),
            'live' => $change->applied_us === null || $change->state !== ChangeState::Applied ? [] : $live->of($change),
        ]);
    }

    public function choose(ChooseStatementsRequest $request, Change $change, ChosenStatements $chosen): RedirectResponse
    {
        $data = $request->validated();
        $known = [];
        foreach ($chosen->choosable($change) as $statement) {
            $known[$statement->id] = $statement->executions;
        }
        $workload = [];
        foreach ($data['statements'] as $id) {
            if (isset($known[$id])) {
                $workload[] = ['id' => $id, 'executions' => $known[$id]];
            }
        }

        $place = isset($data['rehearse_on']) ? (int) $data['rehearse_on'] : null;

        return $this->act(
            $change,
            fn () => $this->changes->choose($change, $workload, $data['copy_share'] / 100, $place),
            'The choice is kept.',
        );
    }

    public function rehearse(#[CurrentUser] User $user, Change $change): RedirectResponse
    {
        return $this->act($change, fn () => $this->changes->rehearse($change, $user), null);
    }

    public function approve(#[CurrentUser] User $user, Change $change): RedirectResponse
    {
        return $this->act(
            $change,
            fn () => $this->changes->approve($change, $user),
            'Approved. Nothing was touched yet; apply it when it suits.',
        );
    }

    public function apply(#[CurrentUser] User $user, Change $change): RedirectResponse
    {
        return $this->act($change, fn () => $this->changes->apply($change, $user), null);
    }

    public function undo(#[CurrentUser] User $user, Change $change): RedirectResponse
    {
        return $this->act($change, fn () => $this->changes->undo($change, $user), null);
    }

    public function stop(#[CurrentUser] User $user, Change $change): RedirectResponse
    {
        return $this->act($change, fn () => $this->changes->stop($change, $user), 'It stops at the next safe place.');
    }

    private function act(Change $change, callable $act, ?string $done): RedirectResponse
    {
        Gate::authorize('act', $change);
        try {
            $act();
        } catch (Refused $refused) {
            return redirect(address('change.show', $change->id))->with('failed', $refused->getMessage());
        }
        $to = redirect(address('change.show', $change->id));

        return $done === null ? $to : $to->with('done', $done);
    }

    /**
     * @return Builder<Change>
     */
    private function filtered(Request $request): Builder
    {
        $text = static fn (string $name): string => is_string($request->query($name)) ? mb_substr($request->query($name), 0, 200) : '';

        $query = Change::query();
        $query
            ->when(ChangeState::tryFrom($text('state')) !== null, static fn (Builder $q) => $q->where('state', $text('state')))
            ->when(
                $text('cluster') !== '',
                static fn (Builder $q) => $q->whereIn('cluster_id', Cluster::query()->where('slug', $text('cluster'))->pluck('id')),
            )
            ->when(
                $text('words') !== '',
                static fn (Builder $q) => $q->where(
                    static fn (Builder $q) => $q
                        ->where('object', 'like', '%'.addcslashes($text('words'), '%_\\').'%')
                        ->orWhere('title', 'like', '%'.addcslashes($text('words'), '%_\\').'%'),
                ),
            );
        $query->orderByDesc('id');

        return $query;
    }
}
