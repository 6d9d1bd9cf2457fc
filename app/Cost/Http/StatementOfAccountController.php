<?php

declare(strict_types=1);

namespace App\Cost\Http;

use App\Cost\Application\Accounts;
use App\Cost\Application\TeamAccounts;
use App\Cost\Http\Requests\ScheduleAccountRequest;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use stdClass;

/**
 * Who gets statements of account, and what was sent.
 */
final readonly class StatementOfAccountController
{
    public function __construct(private Accounts $accounts)
    {
    }

    public function index(Request $request): View
    {
        $team = $request->query('team');
        $schedules = $this->accounts->schedules();
        $waiting = count(array_filter($schedules, static fn (stdClass $one): bool => $one->confirmed_us === null));

        return view('cost.accounts', [
            'schedules' => $schedules,
            'waiting' => $waiting,
            'sent' => $this->accounts->sent(),
            'teams' => TeamAccounts::teams(),
            'team' => is_string($team) ? $team : '',
            'month' => Accounts::month(Clock::seconds()),
        ]);
    }

    public function store(ScheduleAccountRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        $id = $this->accounts->plan($data['team'], $data['recipient'], (int) $data['day'], $user);

        return redirect(address('account.preview', $id))->with('done', 'Look at it first: nothing goes out before you say so.');
    }

    public function preview(int $schedule, TeamAccounts $teams): View
    {
        $found = $this->find($schedule);
        $month = Accounts::month(Clock::seconds());

        return view('cost.account-preview', [
            'schedule' => $found,
            'account' => $teams->of((string) $found->team, $month, Clock::seconds()),
            'month' => $month,
        ]);
    }

    public function confirm(#[CurrentUser] User $user, int $schedule): RedirectResponse
    {
        $found = $this->find($schedule);
        $this->accounts->confirm($found, $user);

        return self::back()->with('done', "From now on it goes to {$found->recipient} on day {$found->day} of each month.");
    }

    /** At once, of the month that ended last, however often it was sent before. */
    public function send(#[CurrentUser] User $user, int $schedule): RedirectResponse
    {
        $found = $this->find($schedule);
        abort_if($found->confirmed_us === null, 422, 'Nobody has seen a preview of it yet: look at it first.');
        $month = Accounts::month(Clock::seconds());
        $state = $this->accounts->sendNow($found, $user, Clock::seconds());

        return self::back()->with('done', match ($state) {
            'sent' => "The statement of {$month->describe()} was sent to {$found->recipient}.",
            'kept' => 'No mail server is set up here, so it was not sent: it can be read below and in the outbox.',
            default => 'The mail server could not be reached. It stays in the outbox and is tried again.',
        });
    }

    public function remove(#[CurrentUser] User $user, int $schedule): RedirectResponse
    {
        $found = $this->find($schedule);
        $this->accounts->end($found, $user);

        return self::back()->with(
            'done',
            "No statement of {$found->team} goes to {$found->recipient} any more; those that were sent stay.",
        );
    }

    /** One that was sent, as it was. */
    public function file(int $account, string $document): Response
    {
        [$content, $name] = $this->accounts->kept($account, $document === 'pdf' ? 'pdf' : 'html') ?? abort(404);

        return TeamController::download($content, $document, $name);
    }

    private function find(int $id): stdClass
    {
        return $this->accounts->schedule($id) ?? abort(404);
    }

    private static function back(): RedirectResponse
    {
        return redirect(address('account.index'));
    }
}
