<?php

declare(strict_types=1);

namespace App\Encodings\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to EncodingController::propose().
 */
final class ProposeEncodingsRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['variant' => ['required', 'string', 'max:20'], 'older' => ['nullable', 'integer', 'between:0,3650']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['older.*' => 'The age is a whole number of days, up to 3650.'];
    }
}
