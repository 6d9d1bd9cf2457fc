<?php

declare(strict_types=1);

namespace App\Sessions\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

final class StopSessionRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'session' => ['required', 'integer', 'between:1,'.PHP_INT_MAX],
            'act' => ['required', 'in:cancel,end'],
            'statement' => ['required_if:act,cancel', 'nullable', 'string', 'regex:~^[0-9a-f]{32}$~'],
        ];
    }
}
