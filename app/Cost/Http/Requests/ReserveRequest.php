<?php

declare(strict_types=1);

namespace App\Cost\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form sends to QuantityController::reserve().
 */
final class ReserveRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'team' => ['required', 'string', 'max:120'],
            'percent' => ['required', 'string', 'regex:~^(100(\.0{1,4})?|\d{1,2}(\.\d{1,4})?)$~', 'not_regex:~^0+(\.0+)?$~'],
            'from' => ['required', 'date_format:Y-m-d'],
            'to' => ['nullable', 'date_format:Y-m-d', 'after_or_equal:from'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'team.*' => 'Write the name of a team.',
            'percent.*' => 'A reserved part is a percentage above 0 and up to 100, as 12.5.',
            'from.*' => 'The first day is a day as 2026-11-20.',
            'to.after_or_equal' => 'The last day lies before the first.',
            'to.*' => 'The last day is a day as 2026-12-31; it may be left out.',
        ];
    }
}
