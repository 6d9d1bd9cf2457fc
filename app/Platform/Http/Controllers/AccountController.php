<?php

declare(strict_types=1);

namespace App\Platform\Http\Controllers;

use App\Platform\Http\Requests\SaveAccountRequest;
use App\Platform\Models\User;
use App\Platform\Support\Journal;
use App\Platform\Support\StrongPassword;
use DateTimeZone;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

final class AccountController
{
    public function edit(): View
    {
        return view('platform.account', ['zones' => DateTimeZone::listIdentifiers()]);
    }

    public function update(SaveAccountRequest $request, #[CurrentUser] User $user): RedirectResponse
    {
        $data = $request->validated();
        $user->update($data);

        return redirect(address('account.edit'))->with('done', 'Saved.');
    }

    public function password(Request $request, #[CurrentUser] User $user, Journal $journal): RedirectResponse
    {
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
