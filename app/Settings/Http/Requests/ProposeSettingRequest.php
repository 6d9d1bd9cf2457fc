<?php

declare(strict_types=1);

namespace App\Settings\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form sends to SettingController::propose().
 */
final class ProposeSettingRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['host' => ['required', 'string', 'max:120'], 'setting' => ['nullable', 'string', 'max:190']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['host.*' => 'Choose a host.', 'setting.*' => 'Choose a setting of the host.'];
    }
}
