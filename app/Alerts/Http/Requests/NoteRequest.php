<?php

declare(strict_types=1);

namespace App\Alerts\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What somebody writes about an incident.
 */
final class NoteRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['said' => ['required', 'string', 'max:4000']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['said.*' => 'Write a note of 4000 characters at most.'];
    }
}
