<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to LabelController::detected().
 */
final class DecideDetectionRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'paths' => ['required', 'array', 'max:500'],
            'paths.*' => ['string', 'max:300'],
            'answer' => ['required', 'in:accepted,rejected'],
            'value' => ['nullable', 'string', 'max:190'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['paths.required' => 'Choose at least one column.'];
    }
}
