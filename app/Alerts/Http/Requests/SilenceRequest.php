<?php

declare(strict_types=1);

namespace App\Alerts\Http\Requests;

use App\Alerts\Models\Alert;
use App\Estate\Models\Cluster;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * When nobody is to be told, of what, and why.
 */
final class SilenceRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'cluster' => ['nullable', 'string', Rule::exists(Cluster::class, 'slug')->whereNull('deleted_at')],
            'alert' => ['nullable', 'integer', Rule::exists(Alert::class, 'id')],
            'host' => ['nullable', 'string', 'max:120'],
            'when' => ['required', 'string', 'max:100'],
            'repeats' => ['nullable', Rule::in(['daily', 'weekly'])],
            'reason' => ['required', 'string', 'max:300'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'cluster.*' => 'Choose a cluster, or all of them.',
            'alert.*' => 'Choose an alert, or all of them.',
            'host.*' => 'Write the name of one host, or leave it empty for all.',
            'when.*' => 'Say when, as "today 22:00-23:30" or "2026-12-05 01:00 to 2026-12-05 04:00".',
            'repeats.*' => 'It comes once, every day or every week.',
            'reason.*' => 'Say why, in 300 characters at most.',
        ];
    }
}
