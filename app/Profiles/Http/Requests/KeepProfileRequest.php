<?php

declare(strict_types=1);

namespace App\Profiles\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Http\UploadedFile;

/**
 * What a form sends to ProfileController::keep().
 */
final class KeepProfileRequest extends FormRequest
{
    private const MOST_KB = 300_000;

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['name' => ['required', 'string', 'max:120'], 'file' => ['required', 'file', 'max:'.self::MOST_KB]];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'name.*' => 'Give the profile a name.',
            'file.max' => 'A profile has at most 300 MB. Fold its stacks first, or take a shorter one.',
            'file.*' => 'Choose a profile: folded stacks, or what perf script prints.',
        ];
    }

    public function stacksPath(): string
    {
        $file = $this->file('file');

        return $file instanceof UploadedFile ? $file->getPathname() : '';
    }
}
