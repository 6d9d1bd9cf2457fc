<?php

declare(strict_types=1);

namespace App\Limits\Http\Requests;

use Closure;
use Fulcrion\Core\Text\TypedDuration;
use Illuminate\Foundation\Http\FormRequest;
use InvalidArgumentException;

/**
 * What a form sends to AccountLimitController::propose(); what is left empty is not limited.
 */
final class LimitAccountRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'account' => ['required', 'string', 'max:128'],
            'time' => ['nullable', 'string', 'max:40', function (string $field, mixed $value, Closure $fail): void {
                try {
                    // The server takes it to the millisecond.
                    if (TypedDuration::us((string) $value) < 1_000) {
                        $fail('A statement may take a millisecond at least.');
                    }
                } catch (InvalidArgumentException $error) {
                    $fail($error->getMessage());
                }
            }],
            'queries' => ['nullable', 'integer', 'min:1', 'max:4000000000'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'account.*' => 'Choose an account of the server.',
            'time.max' => 'Write a time, as 30 s, or leave it empty.',
            'queries.*' => 'A number of queries is whole and above 0, as 5000; leave it empty for any number.',
        ];
    }
}
