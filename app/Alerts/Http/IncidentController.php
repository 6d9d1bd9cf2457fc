<?php

declare(strict_types=1);

namespace App\Alerts\Http;

use App\Alerts\Application\IncidentFindings;
use App\Alerts\Application\IncidentPage;
use App\Alerts\Application\IncidentVoice;
use App\Alerts\Http\Requests\HandIncidentRequest;
use App\Alerts\Http\Requests\NoteRequest;
use App\Alerts\Models\Incident;
use App\Alerts\Models\IncidentAct;
use App\Alerts\Models\Ring;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Journal;
use App\Platform\Support\ReportFile;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Facades\DB;

/**
 * Incidents: what they were, and who does what about them.
 */
final readonly class IncidentController
{
    public function __construct(private IncidentPage $page, private Journal $journal)
    {
    }

    public function index(): RedirectResponse
    {
        return redirect(address('alert.index'));
    }

    public function show(Incident $incident, #[CurrentUser] User $user): View
    {
        return view('alerts.incident', [
            'incident' => $incident, 'zone' => $user->zone(), 'people' => User::query()->whereNull('disabled_at')->orderBy('name')->get(),
            'page' => $this->page->of($incident, Clock::seconds(), $user->zone()),
        ]);
    }

    /** The same as one file that needs neither network nor this application. */
    public function file(Incident $incident, ReportFile $report, #[CurrentUser] User $user): Response
    {
        return $report->response('alerts.report-incident', [
            'incident' => $incident, 'zone' => $user->zone(), 'page' => $this->page->of($incident, Clock::seconds(), $user->zone()),
            'about' => IncidentPage::about($incident, $user->zone()),
        ], "incident-{$incident->id}");
    }

    public function take(Incident $incident, IncidentFindings $findings, #[CurrentUser] User $user): RedirectResponse
    {
        // Of two at once one takes it.
        $isTaken = Incident::open()->whereKey($incident->id)->whereNull('taken_at')
            ->update(['taken_by' => $user->name, 'taken_at' => Clock::seconds(), 'holder_id' => $user->id]) === 1;
        if (! $isTaken) {
            $incident->refresh();

            return back()->with('failed', $incident->isOpen() ? "{$incident->taken_by} has taken it already." : 'It is over already.');
        }
        $this->note($incident, $user, 'taken', 'takes care of it');
        $findings->report($incident->cluster);

        return back()->with('done', 'It is yours. Nobody else is told by the second step.');
    }

    public function hand(
        HandIncidentRequest $request,
        Incident $incident,
        IncidentVoice $voice,
        #[CurrentUser] User $user,
    ): RedirectResponse {
        $to = User::query()->findOrFail((int) $request->validated('to'));
        if (! $incident->isOpen()) {
            return back()->with('failed', 'It is over already.');
        }
        $incident->update(['holder_id' => $to->id, 'taken_by' => $to->name, 'taken_at' => $incident->taken_at ?? Clock::seconds()]);
        $this->note($incident, $user, 'handed', "hands it to {$to->name}");
        $voice->hand($incident, $to, $user->name, Clock::seconds());

        return back()->with('done', "{$to->name} is told.");
    }

    public function comment(NoteRequest $request, Incident $incident, #[CurrentUser] User $user): RedirectResponse
    {
        $this->note($incident, $user, 'note', (string) $request->validated('said'));

        return back();
    }

    /** Whether it was one: thresholds are tried on those that were. */
    public function real(Request $request, Incident $incident, #[CurrentUser] User $user): RedirectResponse
    {
        $wasReal = $request->boolean('real');
        DB::transaction(function () use ($incident, $wasReal, $user): void {
            $incident->update(['was_real' => $wasReal]);
            $name = mb_strcut("incident {$incident->id}", 0, 120);
            DB::table('incident_marks')->where('cluster_id', $incident->cluster_id)->where('name', $name)->delete();
            if ($wasReal) {
                $from = (int) Ring::query()->where('incident_id', $incident->id)->min('from_at');
                DB::table('incident_marks')->insert([
                    'cluster_id' => $incident->cluster_id, 'from_at' => $from === 0 ? $incident->opened_at : $from,
                    'to_at' => $incident->ended_at ?? Clock::seconds(), 'name' => $name, 'made_by' => $user->name,
                ]);
            }
        });
        $this->note($incident, $user, 'note', $wasReal ? 'says that it was one' : 'says that it was a false alarm');

        return back()->with('done', $wasReal ? 'It is marked: rehearsals tell whether they would have caught it.'
            : 'It is no mark any more.');
    }

    private function note(Incident $incident, User $user, string $kind, string $said): void
    {
        IncidentAct::query()->create(['incident_id' => $incident->id, 'at' => Clock::seconds(), 'who' => $user->name, 'kind' => $kind,
            'said' => $said]);
        $this->journal->record($user, match ($kind) {
            'taken' => 'took an incident', 'handed' => 'handed an incident over', default => 'wrote about an incident',
        }, "incident {$incident->id}");
    }
}
