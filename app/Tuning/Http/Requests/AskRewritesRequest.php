<?php

declare(strict_types=1);

namespace App\Tuning\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to RewriteController::ask().
 */
final class AskRewritesRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'cluster' => ['required', 'string', 'max:100'],
            'schema' => ['nullable', 'string', 'max:200'],
            'sql' => ['nullable', 'string', 'max:100000', 'required_without:fingerprint'],
            'fingerprint' => ['nullable', 'regex:~^[0-9a-f]{32}$~'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['sql.required_without' => 'Write a statement to look at.'];
    }
}
