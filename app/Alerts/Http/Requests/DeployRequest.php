<?php

declare(strict_types=1);

namespace App\Alerts\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What was deployed.
 */
final class DeployRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'name' => ['required', 'string', 'max:200'],
            'at' => ['nullable', 'string', 'regex:~^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(Z|[+-]\d\d:\d\d)$~', 'date',
                'after:2000-01-01', 'before:2100-01-01'],
            'link' => ['nullable', 'string', 'max:500', 'url:http,https'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'name.*' => 'name: say what was deployed, in 200 characters at most.',
            'at.*' => 'at: write a time as 2026-11-26T11:00:00Z, or leave it out for now.',
            'link.*' => 'link: write an address that begins with http:// or https://, of 500 characters at most.',
        ];
    }
}
