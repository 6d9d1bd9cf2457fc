<?php

declare(strict_types=1);

namespace App\Loading\Http\Requests;

use Closure;
use Fulcrion\Core\Text\TypedRate;
use Illuminate\Foundation\Http\FormRequest;
use InvalidArgumentException;

/**
 * What a form sends to LoadingController::link().
 */
final class SetLinkRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['name' => ['required', 'string', 'max:120'], 'rate' => ['required', 'string', 'max:40', $this->isRate(...)]];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return ['name.*' => 'Choose a delivery.', 'rate.required' => 'Write what the link lets through, as 100 Mbit/s.',
            'rate.max' => 'Write what the link lets through, as 100 Mbit/s.'];
    }

    private function isRate(string $field, mixed $value, Closure $fail): void
    {
        try {
            TypedRate::of(is_string($value) ? $value : '');
        } catch (InvalidArgumentException $error) {
            $fail($error->getMessage());
        }
    }
}
