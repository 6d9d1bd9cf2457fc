<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to ReviewController::fix().
 */
final class FixRemarkRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['findings' => ['required', 'array', 'max:500'], 'findings.*' => ['integer']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['findings.required' => 'Choose at least one finding.'];
    }
}
