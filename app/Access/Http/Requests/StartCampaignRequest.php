<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use App\Platform\Support\Clock;
use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to CampaignController::store().
 */
final class StartCampaignRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'title' => ['required', 'string', 'max:200'],
            'due' => ['required', 'date_format:Y-m-d', 'after:'.gmdate('Y-m-d', Clock::seconds() - 86_400)],
            'below' => ['nullable', 'string', 'max:300'],
            'whom' => ['required', 'in:all,people,roles'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'title.required' => 'Give it a name.',
            'due.required' => 'Say by when.',
            'due.after' => 'This day is over already; choose a later one.',
        ];
    }
}
