<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use App\Platform\Support\Clock;
use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to RequestController::store().
 */
final class AskForAccessRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'object' => ['required', 'string', 'max:300'],
            'reason' => ['required', 'string', 'min:5', 'max:1000'],
            'until' => ['nullable', 'date_format:Y-m-d', 'after:'.gmdate('Y-m-d', Clock::seconds() - 86_400)],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'object.required' => 'Say what you need: a table, or a data product.',
            'reason.required' => 'Say what you need it for; its owner decides by that.',
            'reason.min' => 'Say it in a few words.',
            'until.after' => 'This day is over already.',
        ];
    }
}
