<?php

declare(strict_types=1);

namespace App\Statements\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to PlanController::store().
 */
final class SendPlanRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'cluster' => ['required', 'exists:clusters,slug'],
            'file' => ['required_without:json', 'nullable', 'file', 'max:4096'],
            'json' => ['nullable', 'string', 'max:4000000'],
            'sql' => ['nullable', 'string', 'max:200000'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['file.required_without' => 'Choose a file or paste the plan.', 'file.max' => 'A plan of more than 4 MB cannot be read.'];
    }
}
