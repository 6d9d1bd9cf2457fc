<?php

declare(strict_types=1);

namespace App\Platform\Http\Requests;

use DateTimeZone;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * What a form or a caller sends to AccountController::update().
 */
final class SaveAccountRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'name' => ['required', 'string', 'max:120'],
            'time_zone' => ['required', Rule::in(DateTimeZone::listIdentifiers())],
            'theme' => ['required', 'in:day,night'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['time_zone.in' => 'Choose a zone of the list, such as Europe/Berlin or UTC.'];
    }
}
