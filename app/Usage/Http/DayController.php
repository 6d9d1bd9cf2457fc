<?php

declare(strict_types=1);

namespace App\Usage\Http;

use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Usage\Application\DaysPage;
use App\Usage\Application\RemakeDays;
use App\Usage\Http\Requests\RemakeDaysRequest;
use App\Usage\Http\Requests\SetZoneRequest;
use App\Usage\Models\UsageRun;
use DateTimeZone;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

/**
 * Which days of use are closed, and days that are rebuilt.
 */
final readonly class DayController
{
    public function index(Request $request): View
    {
        $run = UsageRun::query()->orderByDesc('id')->first();

        return $request->header('HX-Target') === 'days-progress'
            ? view('usage.days-progress', ['run' => $run])
            : view('usage.days', [
                'page' => DaysPage::of(Clock::seconds()),
                'run' => $run,
                'zone' => app(Calendar::class)->zone->getName(),
                'zones' => DateTimeZone::listIdentifiers(),
            ]);
    }

    public function make(RemakeDaysRequest $request, #[CurrentUser] User $user, Ledger $ledger): RedirectResponse
    {
        $back = redirect(address('usage.days'));
        if (self::isBusy()) {
            return $back->withInput()->with('failed', 'Days are being rebuilt already. Wait until that is over, or stop it.');
        }
        $data = $request->validated();
        self::run($user, (int) strtotime("{$data['from']} UTC"), (int) strtotime("{$data['to']} UTC"));
        $ledger->record($user, 'asked for days of use to be rebuilt', "{$data['from']} to {$data['to']}");

        return $back;
    }

    public function zone(SetZoneRequest $request, #[CurrentUser] User $user, Ledger $ledger, Calendar $calendar): RedirectResponse
    {
        $back = redirect(address('usage.days'));
        if (self::isBusy()) {
            return $back->withInput()->with('failed', 'Days are being rebuilt. Wait until that is over, or stop it.');
        }
        $zone = (string) $request->validated()['zone'];
        if ($zone === $calendar->zone->getName()) {
            return $back->with('done', "Days are counted by {$zone} already.");
        }
        $today = $calendar->day(Clock::seconds());
        self::run($user, (int) (DB::table('usage_hours')->min('day_at') ?? $today), $today, $zone);
        $ledger->record($user, 'changed the time zone days are counted by', $zone, ['before' => $calendar->zone->getName()]);

        return $back;
    }

    private static function isBusy(): bool
    {
        return UsageRun::query()->orderByDesc('id')->first()?->isOver() === false;
    }

    private static function run(User $user, int $from, int $to, ?string $zone = null): void
    {
        $run = UsageRun::query()->create([
            'from_at' => $from,
            'to_at' => $to,
            'zone' => $zone,
            'state' => 'waiting',
            'progress' => 'waiting for a worker',
            'asked_us' => Clock::microseconds(),
            'asked_by' => $user->name,
            'heartbeat_us' => Clock::microseconds(),
        ]);
        RemakeDays::dispatch($run->id);
    }

    public function stop(int $run): RedirectResponse
    {
        UsageRun::query()->findOrFail($run)->askToStop();

        return redirect(address('usage.days'));
    }
}
