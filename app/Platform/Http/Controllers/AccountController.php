<?php

declare(strict_types=1);

namespace App\Platform\Http\Controllers;

use App\Platform\Http\Requests\ChangePasswordRequest;
use App\Platform\Http\Requests\SaveAccountRequest;
use App\Platform\Models\User;
use App\Platform\Support\Journal;
use DateTimeZone;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
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

    public function password(ChangePasswordRequest $request, #[CurrentUser] User $user, Journal $journal): RedirectResponse
    {
        $data = $request->validated();
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
