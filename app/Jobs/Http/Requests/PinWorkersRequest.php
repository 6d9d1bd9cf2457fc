<?php

declare(strict_types=1);

namespace App\Jobs\Http\Requests;

use App\Jobs\Http\JobController;
use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to JobController::pin().
 */
final class PinWorkersRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'workers' => ['required', 'integer', 'between:1,'.JobController::MOST_WORKERS],
            'reason' => ['required', 'string', 'max:200'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['workers.*' => 'Workers are a whole number from 1.', 'reason.required' => 'Say why: whoever reads the ledger will ask.'];
    }
}
