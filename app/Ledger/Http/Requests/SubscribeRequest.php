<?php

declare(strict_types=1);

namespace App\Ledger\Http\Requests;

use App\Ledger\Models\Subscription;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * Where findings are told.
 */
final class SubscribeRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'kind' => ['required', 'in:mail,webhook'],
            'target' => ['required', 'string', 'max:500', $this->input('kind') === 'webhook' ? 'url:http,https' : 'email'],
            'digest' => ['nullable', 'boolean'],
            'hears' => ['nullable', Rule::in(Subscription::HEARS)],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'target.required' => 'Say where to: a mail address or the address of a webhook.',
            'target.email' => 'This is no mail address.',
            'hears.in' => 'Choose findings, incidents or both.',
            'target.url' => 'A webhook is an address that begins with http:// or https://.',
        ];
    }
}
