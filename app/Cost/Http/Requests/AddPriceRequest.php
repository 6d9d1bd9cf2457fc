<?php

declare(strict_types=1);

namespace App\Cost\Http\Requests;

use Fulcrion\Core\Cost\PriceKind;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * What a form sends to CostController::add().
 */
final class AddPriceRequest extends FormRequest
{
    /** A number of zero and more, as it is typed. */
    public const DECIMAL = 'regex:~^\d{1,12}(\.\d{1,10})?$~';

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'kind' => ['required', Rule::enum(PriceKind::class)],
            'name' => ['nullable', 'string', 'max:120'],
            'amount' => ['required', 'string', self::DECIMAL],
            'quantity' => ['nullable', 'string', self::DECIMAL],
            'above' => ['nullable', 'string', self::DECIMAL],
            'from' => ['required', 'date_format:Y-m-d,Y-m-d H:i,Y-m-d H:i:s'],
            'is_reserved' => ['nullable', 'boolean'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'kind.*' => 'Choose what is paid for: nodes, bytes scanned, storage, fees or a discount.',
            'name.max' => 'A name has 120 characters at most.',
            'amount.*' => 'A price is a number with a point, as 1.2; a discount is one in percent. Credits are lines of a bill, not '
                .'prices.',
            'quantity.*' => 'How many there are is a number, as 12.',
            'above.*' => 'Where a tier begins is a number, as 100.',
            'from.*' => 'A price holds from a day or a moment, as 2026-11-15 or 2026-11-15 13:30, by the clocks of the estate.',
            'is_reserved.boolean' => 'Reserved is yes or no.',
        ];
    }
}
