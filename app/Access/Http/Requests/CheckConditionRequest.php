<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to PolicyController::check().
 */
final class CheckConditionRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'type' => ['required', 'in:condition,predicate'],
            'text' => ['nullable', 'string', 'max:5000'],
            'scope' => ['nullable', 'string', 'max:300'],
        ];
    }
}
