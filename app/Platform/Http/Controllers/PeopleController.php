<?php

declare(strict_types=1);

namespace App\Platform\Http\Controllers;

use App\Platform\Http\Requests\AddPersonRequest;
use App\Platform\Http\Requests\SavePersonRequest;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Journal;
use App\Platform\Support\PolicyPeople;
use App\Platform\Support\Role;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;

final class PeopleController
{
    public function __construct(private readonly PolicyPeople $policy)
    {
    }

    public function index(): View
    {
        return view('platform.people', [
            'people' => User::query()->orderBy('name')->get(),
            'roles' => Role::cases(),
            'known' => $this->policy->all(),
        ]);
    }

    public function store(AddPersonRequest $request, Journal $journal): RedirectResponse
    {
        $data = $request->validated();
        $password = Str::password(16, symbols: false);
        $person = User::query()->create([...$data, 'password' => $password]);
        $journal->record(self::actor($request), 'added a person', $person->email, ['role' => $person->role->value]);

        return redirect(address('people.index'))->with(
            'done',
            "{$person->name} can sign in as {$person->email} with the password {$password}. It is shown this once.",
        );
    }

    public function update(SavePersonRequest $request, User $user, Journal $journal): RedirectResponse
    {
        $data = $request->validated();
        $was = $user->policy_person;
        $role = Role::from((string) $data['role']);
        $disabled = (bool) ($data['disabled'] ?? false);
        $owners = User::query()->where('role', Role::Owner)->whereNull('disabled_at')->where('id', '<>', $user->id)->count();
        if ($owners === 0 && ($role !== Role::Owner || $disabled)) {
            return redirect(address('people.index'))->with(
                'failed',
                "{$user->name} is the last owner who can sign in. Make somebody else an owner first.",
            );
        }
        $said = "{$user->name} is saved.";
        $user->forceFill([
            'role' => $role,
            'policy_person' => $request->has('policy_person') ? $data['policy_person'] ?? null : $was,
            'disabled_at' => $disabled ? $user->disabled_at ?? Clock::now() : null,
        ]);
        if ((bool) ($data['new_password'] ?? false)) {
            $password = Str::password(16, symbols: false);
            $user->password = $password;
            $said = "{$user->name} signs in with the password {$password} from now on. It is shown this once.";
        }
        $user->save();
        if ($disabled || isset($password)) {
            DB::table('sessions')->where('user_id', $user->id)->delete();
        }
        $journal->record(
            self::actor($request),
            'changed a person',
            $user->email,
            ['role' => $role->value, 'may sign in' => ! $disabled, 'new password' => isset($password)] +
                ($user->policy_person === $was ? [] : ['bound to' => $user->policy_person ?? 'nobody']),
        );

        return redirect(address('people.index'))->with('done', $said);
    }

    private static function actor(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }
}
