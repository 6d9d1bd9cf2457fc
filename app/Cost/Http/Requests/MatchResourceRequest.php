<?php

declare(strict_types=1);

namespace App\Cost\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form sends to BillController::match().
 */
final class MatchResourceRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'resource' => ['present', 'nullable', 'string', 'max:200'],
            'cluster' => ['required', 'string', 'exists:clusters,slug'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['resource.*' => 'Choose a resource of a bill.', 'cluster.*' => 'Choose one of your clusters.'];
    }
}
