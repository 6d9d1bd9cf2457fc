<?php

declare(strict_types=1);

namespace App\Workbench\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to WorkbenchController::receive().
 */
final class ReceiveFileRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['cluster' => ['required', 'exists:clusters,slug'], 'file' => ['required', 'file', 'max:65536']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['file.required' => 'Choose a file.', 'file.max' => 'A file of more than 64 MB is too large for a practice cluster.'];
    }
}
