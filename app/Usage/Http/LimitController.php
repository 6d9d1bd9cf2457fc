<?php

declare(strict_types=1);

namespace App\Usage\Http;

use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Role;
use App\Telemetry\Usage\UsageLimits;
use App\Usage\Http\Requests\LimitViewerRequest;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Support\Facades\DB;

/**
 * Which viewers see the use and cost of which teams.
 */
final readonly class LimitController
{
    public function index(): View
    {
        return view('usage.limits', [
            'viewers' => User::query()->where('role', Role::Viewer->value)->orderBy('name')->get(),
            'limits' => UsageLimits::all(),
            'teams' => DB::table('usage_teams')->orderBy('name')->pluck('name'),
        ]);
    }

    public function set(LimitViewerRequest $request, #[CurrentUser] User $owner, User $user, Ledger $ledger): RedirectResponse
    {
        abort_unless($user->role === Role::Viewer, 422,
            'Only viewers can be limited to teams: everybody else works on whole clusters.');
        $data = $request->validated();
        $known = DB::table('usage_teams')->pluck('name')->all();
        $teams = (bool) ($data['all'] ?? false) ? null : array_values(array_intersect($known, $data['teams'] ?? []));
        UsageLimits::set($user, $teams);
        $ledger->record($owner, 'limited a viewer to teams', $user->email, [
            'teams' => $teams === null ? 'all' : implode(', ', $teams),
        ]);

        return redirect(address('usage.limits'))->with('done', $teams === null
            ? "{$user->name} sees all teams."
            : "{$user->name} sees ".($teams === [] ? 'no team' : implode(', ', $teams)).' only.');
    }
}
