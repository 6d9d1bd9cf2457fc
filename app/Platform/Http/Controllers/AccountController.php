<?php

declare(strict_types=1);

namespace App\Platform\Http\Controllers;

use App\Ledger\Ledger;
use App\Platform\Models\User;
use DateTimeZone;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Illuminate\Validation\Rule;
use Illuminate\Validation\Rules\Password;

final class AccountController
{
    public function edit(): View
    {
        return view('platform.account', ['zones' => DateTimeZone::listIdentifiers()]);
    }

    public function update(Request $request): RedirectResponse
    {
        $data = $request->validate([
            'name' => ['required', 'string', 'max:120'],
            'time_zone' => ['required', Rule::in(DateTimeZone::listIdentifiers())],
            'theme' => ['required', 'in:day,night'],
        ], ['time_zone.in' => 'Choose a zone of the list, such as Europe/Berlin or UTC.']);
        $user = $request->user();
        assert($user instanceof User);
        $user->update($data);

        return redirect('/account')->with('done', 'Saved.');
    }

    public function password(Request $request, Ledger $ledger): RedirectResponse
    {
        $data = $request->validate([
            'current_password' => ['required', 'current_password'],
            'password' => ['required', 'confirmed', Password::min(12)],
        ]);
        $user = $request->user();
        assert($user instanceof User);
        $user->update(['password' => $data['password']]);
        Auth::logoutOtherDevices($data['password']);
        $ledger->record($user, 'changed own password', $user->email);

        return redirect('/account')->with('done', 'The password is changed; other sessions are signed out.');
    }
}
