<?php

declare(strict_types=1);

namespace App\Settings\Http\Requests;

use App\Platform\Support\Uploads;
use App\Settings\Application\ProfileBook;
use Closure;
use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form sends to SettingController::save().
 */
final class SaveProfileRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'text' => ['required_without:file', 'nullable', 'string', 'max:'.ProfileBook::MOST_BYTES, $this->isProfile(...)],
            'file' => ['nullable', 'file', 'max:'.intdiv(ProfileBook::MOST_BYTES, 1_000), $this->isFile(...)],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'text.required_without' => 'Write a profile, or choose a file.',
            'text.max' => 'A profile has at most 500 kB.',
            'file.max' => 'A profile has at most 500 kB.',
            'file.file' => 'Choose a file with a profile in YAML.',
            'file.uploaded' => 'The file did not arrive as a whole. Send it again.',
        ];
    }

    public function text(): string
    {
        return $this->sent() ?? (string) $this->validated('text');
    }

    private function sent(): ?string
    {
        return Uploads::text($this->file('file'));
    }

    private function isProfile(string $field, mixed $text, Closure $fail): void
    {
        if ($this->sent() === null) {
            self::check((string) $text, $fail);
        }
    }

    private function isFile(string $field, mixed $file, Closure $fail): void
    {
        self::check((string) $this->sent(), $fail);
    }

    private static function check(string $text, Closure $fail): void
    {
        if (! mb_check_encoding($text, 'UTF-8')) {
            $fail('The profile is no text in UTF-8.');

            return;
        }
        $read = ProfileBook::read($text);
        foreach (is_array($read) ? array_slice($read, 0, 10) : [] as $problem) {
            $fail($problem);
        }
    }
}
