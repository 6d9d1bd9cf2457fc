<?php

declare(strict_types=1);

namespace App\Jobs\Http\Requests;

use App\Jobs\Models\JobSeries;
use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to JobController::aim().
 */
final class JobAimRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'aim' => ['required', 'in:'.implode(',', array_keys(JobSeries::AIMS))],
            'deadline' => ['nullable', 'required_if:aim,deadline', 'regex:~^([01]?\d|2[0-3]):[0-5]\d$~'],
            'budget' => ['nullable', 'required_if:aim,budget', 'numeric', 'gt:0'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'deadline.required_if' => 'Say by when it should end, like 04:00.',
            'deadline.regex' => 'A time of day reads like 04:00.',
            'budget.*' => 'Say what one run may cost.',
        ];
    }
}
