<?php

declare(strict_types=1);

namespace App\Usage\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form sends to DayController::make().
 */
final class RemakeDaysRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'from' => ['required', 'date_format:Y-m-d'],
            'to' => ['required', 'date_format:Y-m-d', 'after_or_equal:from'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'from.*' => 'The first day is a day as 2026-11-20.',
            'to.after_or_equal' => 'The last day lies before the first.',
            'to.*' => 'The last day is a day as 2026-11-29.',
        ];
    }
}
