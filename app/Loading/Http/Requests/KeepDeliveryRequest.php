<?php

declare(strict_types=1);

namespace App\Loading\Http\Requests;

use App\Platform\Support\Uploads;
use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form sends to LoadingController::keep().
 */
final class KeepDeliveryRequest extends FormRequest
{
    private const MOST_KB = 20_000;

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['name' => ['required', 'string', 'max:120'], 'log' => ['required', 'file', 'max:'.self::MOST_KB]];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'name.*' => 'Give the delivery a name, the same each night.',
            'log.max' => 'A log of a delivery has at most 20 MB.',
            'log.*' => 'Choose the log: a line a file with its bytes and when it started and ended.',
        ];
    }

    public function text(): string
    {
        return mb_scrub(Uploads::text($this->file('log')) ?? '');
    }
}
