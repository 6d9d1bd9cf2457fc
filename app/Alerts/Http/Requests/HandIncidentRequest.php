<?php

declare(strict_types=1);

namespace App\Alerts\Http\Requests;

use App\Platform\Models\User;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * To whom an incident is handed.
 */
final class HandIncidentRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['to' => ['required', 'integer', Rule::exists(User::class, 'id')->whereNull('disabled_at')]];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['to.*' => 'Choose who takes it over.'];
    }
}
