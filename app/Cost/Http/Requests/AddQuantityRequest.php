<?php

declare(strict_types=1);

namespace App\Cost\Http\Requests;

use Fulcrion\Core\Cost\PriceKind;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * What a form sends to QuantityController::add().
 */
final class AddQuantityRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'kind' => ['required', Rule::enum(PriceKind::class)->only(self::kinds())],
            'name' => ['nullable', 'string', 'max:120'],
            'quantity' => ['required', 'string', AddPriceRequest::DECIMAL],
            'from' => ['required', 'date_format:Y-m-d'],
            'to' => ['nullable', 'date_format:Y-m-d', 'after_or_equal:from'],
        ];
    }

    /**
     * @return list<PriceKind>
     */
    public static function kinds(): array
    {
        return array_values(array_filter(PriceKind::cases(), static fn (PriceKind $one): bool => $one->isLevel() || $one->isFlow()));
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'kind.*' => 'Choose storage, backups, bytes sent out or burst clusters.',
            'name.max' => 'A name has 120 characters at most.',
            'quantity.*' => 'How much there is of it is a number with a point, as 512.5.',
            'from.*' => 'The first day is a day as 2026-11-20.',
            'to.after_or_equal' => 'The last day lies before the first.',
            'to.*' => 'The last day is a day as 2026-11-29; it may be left out.',
        ];
    }
}
