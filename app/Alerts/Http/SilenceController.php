<?php

declare(strict_types=1);

namespace App\Alerts\Http;

use App\Alerts\Application\CalendarEvent;
use App\Alerts\Application\SilenceBook;
use App\Alerts\Http\Requests\ImportSilencesRequest;
use App\Alerts\Http\Requests\SilenceRequest;
use App\Alerts\Models\Alert;
use App\Alerts\Models\Silence;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Journal;
use Fulcrion\Core\Time\WindowText;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Response;
use Illuminate\Support\Str;
use InvalidArgumentException;

/**
 * Times in which nobody is told: work on clusters, once or again and again.
 */
final readonly class SilenceController
{
    public function __construct(private SilenceBook $book, private Journal $journal)
    {
    }

    public function index(#[CurrentUser] User $user): View
    {
        return view('alerts.silences', $this->book->page(Clock::seconds()) + [
            'clusters' => Cluster::query()->orderBy('name')->get(), 'zone' => $user->zone(),
            'alerts' => Alert::query()->orderBy('name')->get(),
        ]);
    }

    public function add(SilenceRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $now = Clock::seconds();
        try {
            $span = WindowText::parse((string) $request->validated('when'), $now, $user->zone());
            $event = CalendarEvent::make((string) Str::uuid().'@fulcrion', (string) $request->validated('reason'), $span->from, $span->to,
                $user->zone(), (string) $request->validated('repeats'), $now);
        } catch (InvalidArgumentException $error) {
            return back()->withInput()->withErrors(['when' => $error->getMessage()]);
        }
        if ($event->next($now) === null) {
            return back()->withInput()->withErrors(['when' => 'That is over already. Say a time that is still to come, or one that comes '
                .'again.']);
        }
        $cluster = Cluster::query()->where('slug', $request->validated('cluster'))->first();
        $silence = $this->book->keep($event, $cluster?->id, $request->validated('alert') === null ? null
            : (int) $request->validated('alert'), $request->validated('host'), $user);
        $this->journal->record($user, 'set a silence', $silence->reason, ['cluster' => $cluster?->slug]);

        return redirect(address('silence.index'))->with('done', 'Nobody is told of what rings in that time.');
    }

    public function import(ImportSilencesRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $request->validated('cluster'))->first();
        try {
            [$events, $complaints] = CalendarEvent::all((string) $request->file('calendar')?->getContent(), Clock::seconds());
        } catch (InvalidArgumentException $error) {
            return back()->withErrors(['calendar' => $error->getMessage()]);
        }
        foreach ($events as $event) {
            $this->book->keep($event, $cluster?->id, null, null, $user);
        }
        $this->journal->record($user, 'imported silences', $cluster->name ?? 'all clusters', ['events' => count($events)]);
        $more = count($complaints) > 5 ? [...array_slice($complaints, 0, 5), 'And '.(count($complaints) - 5).' more.'] : $complaints;

        return redirect(address('silence.index'))->with($events === [] ? 'failed' : 'done',
            trim(count($events).' '.Str::plural('event', count($events)).(count($events) === 1 ? ' was' : ' were').' taken. '
                .implode(' ', $more)));
    }

    public function calendar(): Response
    {
        return response(CalendarEvent::together(array_map(
            static fn (Silence $one): CalendarEvent => $one->calendarEvent(),
            array_values(Silence::query()->orderBy('from_at')->get()->all()),
        )), 200, ['Content-Type' => 'text/calendar; charset=utf-8', 'Content-Disposition' => 'attachment; filename="silences.ics"']);
    }

    public function remove(Silence $silence, #[CurrentUser] User $user): RedirectResponse
    {
        $silence->delete();
        $this->journal->record($user, 'ended a silence', $silence->reason);

        return redirect(address('silence.index'))->with('done', 'It is ended. What rings now is told within a minute.');
    }
}
