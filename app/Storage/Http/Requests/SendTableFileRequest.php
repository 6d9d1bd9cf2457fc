<?php

declare(strict_types=1);

namespace App\Storage\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to FilesController::store().
 */
final class SendTableFileRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['path' => ['nullable', 'string', 'max:500', 'required_without:zip'], 'zip' => ['nullable', 'file', 'max:4194304']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'path.required_without' => 'Name a folder, or choose a zip file with Parquet files in it.',
            'zip.uploaded' => 'The file did not arrive whole; it may be larger than this server accepts.',
        ];
    }
}
