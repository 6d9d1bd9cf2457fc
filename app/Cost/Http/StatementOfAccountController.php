<?php

declare(strict_types=1);

namespace App\Cost\Http;

use App\Cost\Application\Accounts;
use App\Cost\Application\TeamAccounts;
use App\Cost\Http\Requests\ScheduleAccountRequest;
use App\Ledger\Ledger;
use App\Ledger\Notifications\Dispatcher;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Who gets statements of account, and what was sent.
 */
final readonly class StatementOfAccountController
{
    public function __construct(private Accounts $accounts, private Ledger $ledger)
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
        $id = DB::table('account_schedules')->insertGetId([
            'team' => $data['team'],
            'recipient' => $data['recipient'],
            'day' => (int) $data['day'],
            'made_by' => $user->name,
            'made_us' => Clock::microseconds(),
        ]);
        $this->ledger->record($user, 'planned statements of account', $data['team'], [
            'to' => $data['recipient'], 'day' => (int) $data['day'],
        ]);

        return redirect(address('account.preview', $id))->with('done', 'Look at it first: nothing goes out before you say so.');
    }

    public function preview(int $schedule, TeamAccounts $teams): View
    {
        $found = self::find($schedule);
        $month = Accounts::month(Clock::seconds());

        return view('cost.account-preview', [
            'schedule' => $found,
            'account' => $teams->of((string) $found->team, $month, Clock::seconds()),
            'month' => $month,
        ]);
    }

    public function confirm(#[CurrentUser] User $user, int $schedule): RedirectResponse
    {
        $found = self::find($schedule);
        DB::table('account_schedules')
            ->where('id', $found->id)
            ->whereNull('confirmed_us')
            ->update(['confirmed_by' => $user->name, 'confirmed_us' => Clock::microseconds()]);
        $this->ledger->record($user, 'let statements of account go out', (string) $found->team, ['to' => (string) $found->recipient]);

        return self::back()->with('done', "From now on it goes to {$found->recipient} on day {$found->day} of each month.");
    }

    /** At once, of the month that ended last, however often it was sent before. */
    public function send(#[CurrentUser] User $user, int $schedule, Dispatcher $dispatcher): RedirectResponse
    {
        $found = self::find($schedule);
        abort_if($found->confirmed_us === null, 422, 'Nobody has seen a preview of it yet: look at it first.');
        $month = Accounts::month(Clock::seconds());
        $id = $this->accounts->send($found, $month, Clock::seconds(), $user->name, $user);
        $dispatcher->send();
        $state = DB::table('accounts')->join('notifications', 'notifications.id', '=', 'notification_id')->where('accounts.id', $id)
            ->value('state');

        return self::back()->with('done', match ($state) {
            'sent' => "The statement of {$month->describe()} was sent to {$found->recipient}.",
            'kept' => 'No mail server is set up here, so it was not sent: it can be read below and in the outbox.',
            default => 'The mail server could not be reached. It stays in the outbox and is tried again.',
        });
    }

    public function remove(#[CurrentUser] User $user, int $schedule): RedirectResponse
    {
        $found = self::find($schedule);
        DB::table('account_schedules')->where('id', $found->id)->delete();
        $this->ledger->record($user, 'ended statements of account', (string) $found->team, ['to' => (string) $found->recipient]);

        return self::back()->with(
            'done',
            "No statement of {$found->team} goes to {$found->recipient} any more; those that were sent stay.",
        );
    }

    /** One that was sent, as it was. */
    public function file(int $account, string $document): Response
    {
        $found = DB::table('accounts')->where('id', $account)->first(['team', 'month', $document]) ?? abort(404);
        $team = trim((string) preg_replace('~[^a-z0-9]+~i', '-', (string) $found->team), '-');

        return TeamController::download((string) $found->{$document}, $document, "account-{$team}-{$found->month}.{$document}");
    }

    private static function find(int $id): stdClass
    {
        return DB::table('account_schedules')->where('id', $id)->first() ?? abort(404);
    }

    private static function back(): RedirectResponse
    {
        return redirect(address('account.index'));
    }
}
