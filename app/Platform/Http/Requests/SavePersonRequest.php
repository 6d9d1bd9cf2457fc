<?php

declare(strict_types=1);

namespace App\Platform\Http\Requests;

use App\Platform\Models\User;
use App\Platform\Support\PolicyPeople;
use App\Platform\Support\Role;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;
use Illuminate\Validation\Rules\Enum;

/**
 * What somebody may do here, and who they are in the policy.
 */
final class SavePersonRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(PolicyPeople $policy): array
    {
        $user = $this->route('user');
        assert($user instanceof User);

        return [
            'role' => ['required', new Enum(Role::class)],
            'disabled' => ['boolean'],
            'new_password' => ['boolean'],
            'policy_person' => [
                'nullable',
                'string',
                'max:190',
                Rule::in([...array_map(strval(...), array_keys($policy->all())), $user->policy_person]),
                Rule::unique('users', 'policy_person')->ignore($user->id),
            ],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'policy_person.in' => 'The policy in force knows nobody of that name; choose one of the list.',
            'policy_person.unique' => 'Another account is bound to that person already. Take it from there first.',
        ];
    }
}
