<?php

declare(strict_types=1);

namespace App\Backup\Http\Requests;

use App\Platform\Support\Uploads;
use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form sends to BackupController::keep().
 */
final class KeepBackupsRequest extends FormRequest
{
    private const MOST_KB = 20_000;

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['log' => ['required', 'file', 'max:'.self::MOST_KB]];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'log.max' => 'A log of backups has at most 20 MB.',
            'log.*' => 'Choose the log: a line a backup with its plan, its schemas, and when it started and ended.',
        ];
    }

    public function text(): string
    {
        return mb_scrub(Uploads::text($this->file('log')) ?? '');
    }
}
