<?php

declare(strict_types=1);

namespace App\Encodings\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to EncodingController::start().
 */
final class StartLabRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['table' => ['nullable', 'string', 'max:300', 'required_without:file'], 'file' => ['nullable', 'file', 'max:262144']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'table.required_without' => 'Choose a table, or bring a CSV or Parquet file.',
            'file.uploaded' => 'The file did not arrive whole; it may be larger than this server accepts.',
            'file.max' => 'Files of up to 256 MiB are taken.',
        ];
    }
}
