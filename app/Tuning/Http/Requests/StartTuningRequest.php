<?php

declare(strict_types=1);

namespace App\Tuning\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to TuningController::start().
 */
final class StartTuningRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'cluster' => ['required', 'string', 'max:100'],
            'which' => ['required', 'in:worst,chosen'],
            'statements' => ['array', 'max:25', 'required_if:which,chosen'],
            'statements.*' => ['string', 'regex:~^[0-9a-f]{32}$~'],
            'minutes' => ['required', 'integer', 'between:1,600'],
            'gib' => ['required', 'numeric', 'between:0,100000'],
            'when' => ['required', 'in:now,night'],
            'at' => ['nullable', 'regex:~^([01]?\d|2[0-3]):[0-5]\d$~'],
            'apply' => ['nullable', 'boolean'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'statements.required_if' => 'Tick at least one statement, or take the worst ten.',
            'minutes.*' => 'It may take between 1 and 600 minutes.',
            'gib.*' => 'Say how many GiB may be rewritten.',
            'at.*' => 'A time of day reads like 02:30.',
        ];
    }
}
