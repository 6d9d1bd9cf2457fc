<?php

declare(strict_types=1);

namespace App\Usage\Http\Requests;

use DateTimeZone;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * What a form sends to DayController::zone().
 */
final class SetZoneRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['zone' => ['required', Rule::in(DateTimeZone::listIdentifiers())]];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['zone.*' => 'Choose a time zone from the list, as Europe/Berlin.'];
    }
}
