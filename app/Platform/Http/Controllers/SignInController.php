<?php

declare(strict_types=1);

namespace App\Platform\Http\Controllers;

use App\Platform\Http\Requests\SignInRequest;
use App\Platform\Models\User;
use App\Platform\Support\Journal;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\Hash;
use Illuminate\Support\Str;

final class SignInController
{
    public function form(): View
    {
        return view('platform.sign-in');
    }

    public function enter(SignInRequest $request, Journal $journal): RedirectResponse
    {
        $credentials = $request->validated();
        /** @var User|null $found */
        $found = User::query()->where('email', $credentials['email'])->whereNull('disabled_at')->first();
        // As much work for an address nobody has: the time it takes must not tell which ones there are.
        $fits = Hash::check($credentials['password'], $found === null ? self::nobodys() : $found->password);
        if ($found === null || ! $fits) {
            return back()
                ->withInput($request->only('email'))
                ->withErrors([
                    'email' => 'No one signs in with this address and password. Check both; after five tries a minute you have to wait.',
                ]);
        }
        Auth::login($found);
        $request->session()->regenerate();
        if (Hash::needsRehash($found->password)) {
            $found->update(['password' => $credentials['password']]);
        }
        $journal->record($found, 'signed in', $found->email);

        return redirect()->intended('/');
    }

    private static function nobodys(): string
    {
        return (string) Cache::rememberForever('sign-in: password of nobody', static fn (): string => Hash::make(Str::random(40)));
    }

    public function leave(Request $request): RedirectResponse
    {
        Auth::logout();
        $request->session()->invalidate();
        $request->session()->regenerateToken();

        return redirect(address('login'));
    }
}
