<?php

declare(strict_types=1);

namespace App\Usage\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form sends to LimitController::set().
 */
final class LimitViewerRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['all' => ['nullable', 'boolean'], 'teams' => ['nullable', 'array', 'max:200'], 'teams.*' => ['string', 'max:120']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'all.boolean' => 'All teams is yes or no.',
            'teams.max' => 'Choose 200 teams at most.',
            'teams.*' => 'Choose teams from the list.',
        ];
    }
}
