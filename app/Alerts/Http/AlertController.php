<?php

declare(strict_types=1);

namespace App\Alerts\Http;

use App\Alerts\Application\AlertDraft;
use App\Alerts\Application\AlertsPage;
use App\Alerts\Application\AlertValues;
use App\Alerts\Application\Rehearsal;
use App\Alerts\Charts\RehearsalFigure;
use App\Alerts\Http\Requests\SaveAlertRequest;
use App\Alerts\Models\Alert;
use App\Alerts\Models\Ring;
use App\Estate\EstateCalendar;
use App\Estate\Models\Cluster;
use App\Metrics\Places\PlaceError;
use App\Metrics\Signals\SignalSources;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Journal;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

/**
 * Alerts, and each of them rehearsed on the past.
 */
final readonly class AlertController
{
    public function __construct(
        private SignalSources $sources,
        private AlertValues $values,
        private EstateCalendar $calendar,
        private Journal $journal,
    ) {
    }

    public function index(AlertsPage $page, #[CurrentUser] User $user): View
    {
        return view('alerts.index', $page->of(Clock::seconds(), $user->zone()) + ['zone' => $user->zone()]);
    }

    public function create(Request $request, #[CurrentUser] User $user): View
    {
        $clusters = self::clusters();
        $cluster = Cluster::chosen($clusters, $request->query('cluster'));

        return $this->rehearsed($cluster, $request->query->all(), null, $user);
    }

    public function show(Request $request, Alert $alert, #[CurrentUser] User $user): View
    {
        return $this->rehearsed($alert->cluster, $request->query->all(), $alert, $user);
    }

    public function store(SaveAlertRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $request->validated('cluster'))->firstOrFail();
        $draft = AlertDraft::of($cluster, $request->all(), $this->sources);
        if ($draft->complaints !== [] || $draft->signal === null) {
            return back()->withInput()->withErrors($draft->complaints);
        }
        $alert = $draft->alert;
        $alert->fill(self::more($request) + ['is_on' => true, 'made_by' => $user->name])->save();
        $this->journal->record($user, 'set an alert', $alert->name, ['cluster' => $cluster->slug, 'alert' => $alert->id]);

        return redirect(address('alert.index'))->with('done', "{$alert->name} is on.");
    }

    public function update(SaveAlertRequest $request, Alert $alert, #[CurrentUser] User $user): RedirectResponse
    {
        $draft = AlertDraft::of($alert->cluster, $request->all(), $this->sources, $alert);
        if ($draft->complaints !== [] || $draft->signal === null) {
            return back()->withInput()->withErrors($draft->complaints);
        }
        DB::transaction(function () use ($alert, $draft, $request): void {
            $alert->fill($draft->alert->getAttributes())->fill(self::more($request));
            if ($alert->isDirty(['signal', 'host', 'watched', 'side', 'threshold', 'calm', 'for_seconds', 'calm_seconds', 'share'])) {
                // Another condition begins from quiet: what rang by the old one is over.
                $this->quiet($alert);
            }
            $alert->save();
        });
        $this->journal->record($user, 'changed an alert', $alert->name, ['alert' => $alert->id]);

        return redirect(address('alert.index'))->with('done', "{$alert->name} is changed.");
    }

    public function switch(Alert $alert, #[CurrentUser] User $user): RedirectResponse
    {
        DB::transaction(function () use ($alert): void {
            $alert->is_on = ! $alert->is_on;
            $this->quiet($alert);
            $alert->save();
        });
        $this->journal->record($user, $alert->is_on ? 'switched an alert on' : 'switched an alert off', $alert->name);

        return redirect(address('alert.index'))->with('done', "{$alert->name} is ".($alert->is_on ? 'on.' : 'off.'));
    }

    public function remove(Alert $alert, #[CurrentUser] User $user): RedirectResponse
    {
        DB::transaction(function () use ($alert): void {
            $this->quiet($alert);
            $alert->delete();
        });
        $this->journal->record($user, 'removed an alert', $alert->name);

        return redirect(address('alert.index'))->with('done', "{$alert->name} is removed. Incidents it made stay.");
    }

    private function quiet(Alert $alert): void
    {
        $alert->fill(['states' => null, 'judged_to' => null, 'error' => null]);
        Ring::query()->where('alert_id', $alert->id)->whereNull('to_at')->update(['to_at' => Clock::seconds()]);
    }

    /**
     * @return array<string, mixed>
     */
    private static function more(SaveAlertRequest $request): array
    {
        return [
            'name' => $request->validated('name'), 'is_urgent' => $request->boolean('urgent'),
            'second_minutes' => $request->validated('second_minutes'), 'second_user_id' => $request->validated('second_user'),
        ];
    }

    /**
     * @param  array<string, mixed>  $asked
     */
    private function rehearsed(?Cluster $cluster, array $asked, ?Alert $known, User $user): View
    {
        $old = request()->session()->getOldInput();
        $draft = $cluster === null ? null : AlertDraft::of($cluster, $asked + (is_array($old) ? $old : []), $this->sources, $known);
        $now = Clock::seconds();
        $rehearsal = $complaint = null;
        try {
            $rehearsal = $cluster === null || $draft?->signal === null ? null
                : Rehearsal::of($cluster, $draft->alert, $this->values, $this->calendar, $now);
        } catch (PlaceError $error) {
            $complaint = $error->getMessage();
        }

        return view('alerts.alert', [
            'clusters' => self::clusters(), 'cluster' => $cluster, 'known' => $known, 'draft' => $draft, 'rehearsal' => $rehearsal,
            'complaint' => $complaint, 'zone' => $user->zone(),
            'figure' => $rehearsal === null || $draft === null ? null
                : RehearsalFigure::draw($rehearsal, $draft->alert, $draft->signal, $user->zone()),
            'signals' => $cluster === null ? [] : $this->sources->of($cluster),
            'hosts' => $rehearsal === null ? [] : array_values(array_filter(array_map(strval(...), array_keys($rehearsal->values)),
                static fn (string $host): bool => $host !== '')),
            'people' => User::query()->whereNull('disabled_at')->orderBy('name')->get(),
            'marks' => $cluster === null ? [] : DB::table('incident_marks')->where('cluster_id', $cluster->id)->orderByDesc('from_at')
                ->limit(50)->get(),
        ]);
    }

    /**
     * @return Collection<int, Cluster>
     */
    private static function clusters(): Collection
    {
        return Cluster::productionFirst()->get();
    }
}
