<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to LabelController::fix().
 */
final class FixLabelRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'labels' => ['required', 'array', 'max:500'],
            'labels.*' => ['string', 'max:190'],
            'value' => ['required', 'string', 'max:190'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['labels.required' => 'Choose at least one label.', 'value.required' => 'Choose the value they get.'];
    }
}
