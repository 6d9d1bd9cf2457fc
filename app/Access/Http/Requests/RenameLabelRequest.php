<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to LabelController::rename().
 */
final class RenameLabelRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'from' => ['required', 'string', 'max:120'],
            'to' => ['required', 'string', 'max:120', 'regex:~^[\w][\w /-]*$~u', 'different:from'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['to.required' => 'Say the new name.', 'to.regex' => 'A key is made of letters, digits, spaces, - and /.'];
    }
}
