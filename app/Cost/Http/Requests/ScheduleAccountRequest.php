<?php

declare(strict_types=1);

namespace App\Cost\Http\Requests;

use App\Cost\Application\TeamAccounts;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * What a form sends to StatementOfAccountController::store().
 */
final class ScheduleAccountRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'team' => ['required', 'string', Rule::in(TeamAccounts::teams())],
            'recipient' => ['required', 'string', 'email', 'max:190', Rule::unique('account_schedules', 'recipient')->where(
                'team',
                is_string($this->input('team')) ? $this->input('team') : '',
            )],
            'day' => ['required', 'integer', 'between:1,28'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'team.*' => 'Choose a team that has used something.',
            'recipient.unique' => 'This address gets the statement of this team already.',
            'recipient.*' => 'Say who gets it: a mail address, as name@example.com.',
            'day.*' => 'A day is a number from 1 to 28, so that every month has it.',
        ];
    }
}
