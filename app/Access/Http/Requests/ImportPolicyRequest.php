<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to PolicyController::import().
 */
final class ImportPolicyRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['file' => ['required', 'file', 'max:16384']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['file.required' => 'Choose a file.', 'file.max' => 'A policy of more than 16 MB is none.'];
    }
}
