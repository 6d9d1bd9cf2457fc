<?php

declare(strict_types=1);

namespace App\Alerts\Http\Requests;

use App\Estate\Models\Cluster;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * A calendar of times in which nobody is to be told.
 */
final class ImportSilencesRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'cluster' => ['nullable', 'string', Rule::exists(Cluster::class, 'slug')->whereNull('deleted_at')],
            'calendar' => ['required', 'file', 'max:1024'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'cluster.*' => 'Choose a cluster, or all of them.',
            'calendar.*' => 'Choose a file in the format of calendars (.ics), of 1 MiB at most.',
        ];
    }
}
