<?php

declare(strict_types=1);

namespace App\Platform\Http\Controllers;

use App\Ledger\Ledger;
use App\Platform\Models\User;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;

final class SignInController
{
    public function form(): View
    {
        return view('platform.sign-in');
    }

    public function enter(Request $request, Ledger $ledger): RedirectResponse
    {
        $credentials = $request->validate(['email' => ['required', 'string', 'max:190'], 'password' => ['required', 'string', 'max:190']]);
        if (! Auth::attempt([...$credentials, static fn ($query) => $query->whereNull('disabled_at')])) {
            return back()->withInput($request->only('email'))->withErrors(['email' => 'No one signs in with this address and password. Check both; after five tries a minute you have to wait.']);
        }
        $request->session()->regenerate();
        $user = $request->user();
        assert($user instanceof User);
        $ledger->record($user, 'signed in', $user->email);

        return redirect()->intended('/');
    }

    public function leave(Request $request): RedirectResponse
    {
        Auth::logout();
        $request->session()->invalidate();
        $request->session()->regenerateToken();

        return redirect('/sign-in');
    }
}
