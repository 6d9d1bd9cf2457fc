<?php

declare(strict_types=1);

namespace App\Jobs\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to JobController::store().
 */
final class SendJobRecordRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'cluster' => ['required', 'exists:clusters,slug'],
            'file' => ['required', 'file'],
            'name' => ['nullable', 'string', 'max:190'],
            'workers' => ['nullable', 'integer', 'between:1,1000000'],
            'worker_price' => ['nullable', 'numeric', 'min:0'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'file.required' => 'Choose a file: a job as JSON, its tasks as CSV, or a trace as OTLP JSON, plain or gzip.',
            'file.uploaded' => 'The file did not arrive whole; it may be larger than this server accepts. Compress it with gzip, or '
                .'use the import command.',
            'workers.*' => 'Workers are a whole number from 1.',
            'worker_price.*' => 'A price is a number from 0.',
        ];
    }
}
