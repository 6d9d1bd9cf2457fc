<?php

declare(strict_types=1);

namespace App\Usage\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form sends to ExploreController::keep().
 */
final class KeepViewRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['name' => ['required', 'string', 'max:120'], 'query' => ['required', 'string', 'max:2000', 'not_regex:~[\s<>"]~']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'name.required' => 'Give the view a name.',
            'name.max' => 'A name has 120 characters at most.',
            'query.*' => 'This view cannot be kept: open it again from its address.',
        ];
    }
}
