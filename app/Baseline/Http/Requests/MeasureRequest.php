<?php

declare(strict_types=1);

namespace App\Baseline\Http\Requests;

use Closure;
use Fulcrion\Core\Text\TypedBytes;
use Illuminate\Foundation\Http\FormRequest;
use InvalidArgumentException;

/**
 * What a form sends to BaselineController::measure().
 */
final class MeasureRequest extends FormRequest
{
    private const LEAST_BYTES = 16_000_000;

    private const MOST_BYTES = 16_000_000_000;

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'host' => ['required', 'string', 'max:120'],
            'seconds' => ['required', 'integer', 'between:1,60'],
            'space' => ['required', 'string', 'max:40', $this->isSpace(...)],
            'load' => ['required', 'numeric', 'between:0.05,8'],
            'partner' => ['nullable', 'string', 'max:120', 'regex:~^[\w.:-]+$~u'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'host.*' => 'Choose a host.',
            'seconds.*' => 'Each tool takes between 1 and 60 seconds.',
            'space.required' => 'Write how much space the disk may be measured with, as 1 GB.',
            'load.*' => 'Write the load a processor up to which it may be measured, from 0.05 to 8.',
            'partner.*' => 'Write the name or address of another host, without spaces.',
        ];
    }

    /**
     * @return array{seconds: int, spaceBytes: int, load: float, partner: string}
     */
    public function plan(): array
    {
        $data = $this->validated();

        return ['seconds' => (int) $data['seconds'], 'spaceBytes' => TypedBytes::of($data['space']), 'load' => (float) $data['load'],
            'partner' => (string) ($data['partner'] ?? '')];
    }

    private function isSpace(string $field, mixed $value, Closure $fail): void
    {
        try {
            $bytes = TypedBytes::of(is_string($value) ? $value : '');
        } catch (InvalidArgumentException) {
            $bytes = 0;
        }
        if ($bytes < self::LEAST_BYTES || $bytes > self::MOST_BYTES) {
            $fail('Write how much space the disk may be measured with, from 16 MB to 16 GB.');
        }
    }
}
