<?php

declare(strict_types=1);

namespace App\Alerts\Http\Requests;

use App\Estate\Models\Cluster;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * When something was wrong, as people say it.
 */
final class MarkRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'cluster' => ['required', 'string', Rule::exists(Cluster::class, 'slug')->whereNull('deleted_at')],
            'when' => ['required', 'string', 'max:100'],
            'mark' => ['required', 'string', 'max:120'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'cluster.*' => 'Choose a cluster.',
            'when.*' => 'Say when, as "monday 06:30-09:00".',
            'mark.*' => 'Say what it was, in 120 characters at most.',
        ];
    }
}
