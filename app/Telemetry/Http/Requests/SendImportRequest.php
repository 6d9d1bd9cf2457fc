<?php

declare(strict_types=1);

namespace App\Telemetry\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to ImportController::store().
 */
final class SendImportRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'cluster' => ['required', 'exists:clusters,slug'],
            'file' => ['required', 'file'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'file.required' => 'Choose a file: JSON Lines, CSV with a header, or a slow query log, plain or gzip.',
            'file.uploaded' => 'The file did not arrive whole; it may be larger than this server accepts. Compress it with gzip, or '
                .'use the import command.',
        ];
    }
}
