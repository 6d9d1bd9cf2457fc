<?php

declare(strict_types=1);

namespace App\Platform\Http\Controllers;

use App\Platform\Models\User;
use App\Platform\Support\Journal;
use App\Platform\Support\StrongPassword;
use DateTimeZone;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Illuminate\Validation\Rule;

final class AccountController
{
    public function edit(): View
    {
        return view('platform.account', ['zones' => DateTimeZone::listIdentifiers()]);
    }

    public function update(Request $request): RedirectResponse
    {
        $data = $request->validate(
            [
                'name' => ['required', 'string', 'max:120'],
                'time_zone' => ['required', Rule::in(DateTimeZone::listIdentifiers())],
                'theme' => ['required', 'in:day,night'],
            ],
            ['time_zone.in' => 'Choose a zone of the list, such as Europe/Berlin or UTC.'],
        );
        $user = $request->user();
        assert($user instanceof User);
        $user->update($data);

        return redirect(address('account.edit'))->with('done', 'Saved.');
    }

    public function password(Request $request, Journal $journal): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $data = $request->validate([
            'current_password' => ['required', 'current_password'],
            'password' => ['required', 'string', 'max:190', 'confirmed', new StrongPassword([$user->name, $user->email])],
        ]);
        $user->update(['password' => $data['password'], 'remember_token' => null]);
        // Whoever sits at another machine with this account has to know the new password.
        DB::table('sessions')
            ->where('user_id', $user->id)
            ->where('id', '<>', $request->session()->getId())
            ->delete();
        $request->session()->regenerate();
        $journal->record($user, 'changed own password', $user->email);

        return redirect(address('account.edit'))->with('done', 'The password is changed; other sessions are signed out.');
    }
}
