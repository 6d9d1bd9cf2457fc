<?php

declare(strict_types=1);

namespace App\Usage\Http;

use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Usage\Application\DaysPage;
use App\Usage\Application\RemakeDays;
use App\Usage\Http\Requests\RemakeDaysRequest;
use App\Usage\Models\UsageRun;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

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
            : view('usage.days', ['page' => DaysPage::of(Clock::seconds()), 'run' => $run]);
    }

    public function make(RemakeDaysRequest $request, #[CurrentUser] User $user, Ledger $ledger): RedirectResponse
    {
        $back = redirect(address('usage.days'));
        $last = UsageRun::query()->orderByDesc('id')->first();
        if ($last !== null && ! $last->isOver()) {
            return $back->withInput()->with('failed', 'Days are being rebuilt already. Wait until that is over, or stop it.');
        }
        $data = $request->validated();
        $run = UsageRun::query()->create([
            'from_at' => (int) strtotime("{$data['from']} UTC"),
            'to_at' => (int) strtotime("{$data['to']} UTC"),
            'state' => 'waiting',
            'progress' => 'waiting for a worker',
            'asked_us' => Clock::microseconds(),
            'asked_by' => $user->name,
            'heartbeat_us' => Clock::microseconds(),
        ]);
        $ledger->record($user, 'asked for days of use to be rebuilt', "{$data['from']} to {$data['to']}");
        RemakeDays::dispatch($run->id);

        return $back;
    }

    public function stop(int $run): RedirectResponse
    {
        UsageRun::query()->findOrFail($run)->askToStop();

        return redirect(address('usage.days'));
    }
}
