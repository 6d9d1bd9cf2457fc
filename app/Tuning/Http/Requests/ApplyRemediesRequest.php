<?php

declare(strict_types=1);

namespace App\Tuning\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to TuningController::apply().
 */
final class ApplyRemediesRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['changes' => ['required', 'array', 'max:40'], 'changes.*' => ['integer']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['changes.required' => 'Tick at least one step.'];
    }
}
