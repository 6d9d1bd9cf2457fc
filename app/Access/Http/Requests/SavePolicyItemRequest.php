<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to PolicyController::save().
 */
final class SavePolicyItemRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'name' => ['nullable', 'string', 'max:190'],
            'was' => ['nullable', 'string', 'max:190'],
            'revision' => ['required', 'integer', 'min:0'],
            'fields' => ['array'],
        ];
    }
}
