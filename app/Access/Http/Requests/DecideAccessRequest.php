<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to RequestController::decide().
 */
final class DecideAccessRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'answer' => ['required', 'in:approved,declined'],
            'words' => ['nullable', 'required_if:answer,declined', 'string', 'max:1000'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['words.required_if' => 'Say why it is declined.'];
    }
}
